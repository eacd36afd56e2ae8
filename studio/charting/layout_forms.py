"""The form of a layout: every kind in one, each showing the fields it needs."""

from __future__ import annotations

from collections.abc import Sequence

from django import forms

from chorograph_core.blocks import block_library
from chorograph_core.blocks.library import Block
from chorograph_core.chart import ChartError
from chorograph_core.estimating import Measures
from chorograph_core.estimating.reconcile import Difference, differences, in_the_border, spread
from chorograph_core.layouts import (
    LAYOUTS,
    BlockRows,
    Border,
    Layout,
    Medallion,
    OffsetRows,
    OnPoint,
    OpenField,
    StraightSet,
    Strips,
)
from chorograph_core.layouts import notation as written
from chorograph_core.layouts.borders import MOST_BORDERS
from chorograph_core.measure import in_units, written_length
from studio.blocks import board as boards
from studio.fields import LengthField


def _blocks() -> list[tuple[str, str]]:
    return [(key, block.name) for key, block in block_library().items()]


CORNERS = [("butted", "butted"), ("mitred", "mitred"), ("block", "corner blocks")]
PIECINGS = [("", "plain"), ("squares", "squares"), ("triangles", "triangles")]
FITS = [
    ("", "leave the chart as its parts say"),
    ("spread", "spread it evenly over the whole top"),
    ("border", "put it in the outermost border"),
]
GRID = "straight_set on_point offset_rows"
FOR = {
    "block": f"{GRID} medallion", "second_block": GRID, "block_size": f"{GRID} medallion",
    "rows": GRID, "columns": GRID, "sashing": GRID, "row_sashing": "block_rows",
    "outer_sashing": "straight_set", "cornerstones": "straight_set on_point",
    "open_crossings": "straight_set on_point", "float_by": "on_point",
    "width": "block_rows open_field", "height": "open_field", "length": "strips",
    "direction": "strips", "strips_text": "strips", "rows_text": "block_rows",
    "rings_text": "medallion", "placed_text": "open_field",
}  # fmt: skip
"""Which layouts show a field."""


class LayoutForm(forms.Form):
    """Everything the layouts need. Lengths are finished sizes."""

    layout = forms.ChoiceField(
        choices=lambda: [(key, each.name) for key, each in LAYOUTS.items()], label="Layout",
        initial="straight_set", required=False,
    )  # fmt: skip
    block = forms.ChoiceField(
        choices=_blocks, label="Block", initial="sawtooth_star", required=False
    )
    second_block = forms.ChoiceField(
        choices=lambda: [("", "the same")] + _blocks(), required=False, label="Every other block"
    )
    block_size = LengthField(label="Block, finished", initial="12", required=False)
    rows = forms.IntegerField(label="Rows", initial=5, max_value=2500, required=False)
    columns = forms.IntegerField(label="Columns", initial=4, max_value=2500, required=False)
    sashing = LengthField(label="Sashing width", required=False, initial="1 1/2")
    # Of its own: the sashing of one layout is not meant for another.
    row_sashing = LengthField(label="Sashing between rows", required=False)
    outer_sashing = forms.BooleanField(label="Round the outside, too", required=False)
    cornerstones = forms.BooleanField(label="Cornerstones", required=False, initial=True)
    float_by = LengthField(label="Points float by", required=False)
    width = LengthField(label="Width", required=False)
    height = LengthField(label="Height", required=False)
    length = LengthField(label="Length of the strips", required=False)
    direction = forms.ChoiceField(
        choices=[("down", "down"), ("across", "across")], required=False, label="Strips run"
    )
    strips_text = forms.CharField(required=False, max_length=20_000, label="Strips")
    rows_text = forms.CharField(required=False, max_length=20_000, label="Rows, from the top")
    rings_text = forms.CharField(required=False, max_length=20_000, label="Rings, from the inside")
    placed_text = forms.CharField(required=False, max_length=20_000, label="Blocks")

    fit = forms.ChoiceField(choices=FITS, required=False, label="Where tape and parts differ")
    open_crossings = forms.CharField(
        required=False,
        max_length=2_000,
        label="Crossings without a cornerstone",
    )

    def __init__(
        self, *args, unit: str = "in", own: Sequence[Block] = (),
        measures: Measures | None = None, **kwargs,
    ) -> None:  # fmt: skip
        super().__init__(*args, **kwargs)
        self.measures = measures
        self.off: list[Difference] = []
        self.unit, self.own = unit, own
        mine = [(block.key, f"{block.name} (own)") for block in own]
        for name in ("block", "second_block"):
            self.fields[name].choices = [*self.fields[name].choices, *mine]
        initial = {1: "1 1/2", 2: "5"}
        for number in range(1, MOST_BORDERS + 1):
            self.fields[f"border{number}"] = forms.CharField(
                label=f"Border {number}", required=False, max_length=60, initial=initial.get(number)
            )
            self.fields[f"corner{number}"] = forms.ChoiceField(
                choices=CORNERS, required=False, label="corners"
            )
            self.fields[f"piecing{number}"] = forms.ChoiceField(
                choices=PIECINGS, required=False, label="made of"
            )
            self.fields[f"unit{number}"] = LengthField(label="unit, about", required=False)
        for name, field in self.fields.items():
            if isinstance(field, LengthField):
                field.unit = unit
            field.layouts = FOR.get(name, "")

    @property
    def border_rows(self) -> list[tuple]:
        """The four fields of each border."""
        return [tuple(self[f"{name}{k}"] for name in ("border", "corner", "piecing", "unit"))
                for k in range(1, MOST_BORDERS + 1)]  # fmt: skip

    @property
    def pictures(self) -> list:
        """The blocks that can be chosen, as they are drawn beside their names."""
        return boards.offered(self.own)

    @property
    def layout_fields(self) -> list:
        """The fields whose use depends on the layout, in order."""
        return [self[name] for name in FOR]

    @property
    def differences(self) -> list[str]:
        """Where the tape and the parts differ, in sentences."""
        return [each.sentence(self.unit) for each in self.off]

    @property
    def agreed(self) -> bool:
        """Whether the tape was laid both ways and says what the parts come to."""
        taped = self.measures and self.measures.width and self.measures.height
        return bool(taped) and self.is_valid() and not self.off

    @property
    def notes(self) -> list[str]:
        """What to know of how the numbers come out, once they are sound."""
        if not self.is_bound or not self.is_valid():
            return []
        return self.cleaned_data["survey"].notes(self.unit)

    @property
    def layout_faults(self) -> list:
        """The fields whose faults a preview tells."""
        taped = self.measures and (self.measures.width or self.measures.height)
        hidden = ("title", "client", "due", *(() if taped else ("fit",)))
        return [self[name] for name in self.fields if name not in hidden]

    def clean(self):
        """Put the numbers together; faults of the layout are named at their field."""
        values = super().clean()
        if self.errors:
            return values
        try:
            layout = self._layout(values)
            layout.check()
            layout = self._fitted(layout, values.get("fit", ""))
            layout.check()
        except ChartError as error:
            name = {"blocks": "block", "centre_size": "block_size", "strips": "strips_text",
                    "placed": "placed_text", "rings": "rings_text"}.get(error.field, error.field)  # fmt: skip
            if values.get("layout") == "block_rows":
                name = {"rows": "rows_text", "sashing": "row_sashing"}.get(name, name)
            told = in_units(str(error), self.unit)
            self.add_error(name if name in self.fields else None, told)
        else:
            values["survey"] = layout
        return values

    def _layout(self, v) -> Layout:
        borders = self._borders(v)
        unit = self.unit
        blocks = (v["block"], *([v["second_block"]] if v["second_block"] else []))
        kind = v["layout"] or "straight_set"
        rows, columns = v["rows"] or 0, v["columns"] or 0
        crossings = tuple(v["open_crossings"].replace(",", " ").split())
        if kind == "on_point":
            return OnPoint(rows, columns, v["block_size"], blocks[:1], v["second_block"], v["sashing"],
                           v["cornerstones"], v["float_by"], borders,
                           open_crossings=crossings)  # fmt: skip
        if kind == "offset_rows":
            return OffsetRows(rows, columns, v["block_size"], blocks, v["sashing"], borders)
        if kind == "block_rows":
            return BlockRows(
                v["width"],
                written.read_rows(v["rows_text"], unit, self.own),
                v["row_sashing"],
                borders,
            )
        if kind == "strips":
            return Strips(v["length"], written.read_strips(v["strips_text"], unit, self.own),
                          v["direction"] or "down", borders)  # fmt: skip
        if kind == "medallion":
            return Medallion(
                v["block_size"], v["block"], written.read_rings(v["rings_text"], unit), borders
            )
        if kind == "open_field":
            return OpenField(
                v["width"],
                v["height"],
                written.read_placed(v["placed_text"], unit, self.own),
                borders,
            )
        return StraightSet(rows, columns, v["block_size"], blocks, v["sashing"], v["outer_sashing"],
                           v["cornerstones"], borders,
                           open_crossings=crossings)  # fmt: skip

    def _fitted(self, layout: Layout, how: str) -> Layout:
        """The layout brought to what the tape says, as was chosen; what differs is told."""
        if self.measures is None:
            return layout
        self.off = differences(layout, self.measures)
        if how == "spread":
            return spread(layout, self.measures)
        return in_the_border(layout, self.measures) if how == "border" else layout

    def _borders(self, v) -> tuple[Border, ...]:
        borders, gap = [], False
        for number in range(1, MOST_BORDERS + 1):
            widths = written.read_widths(v[f"border{number}"], self.unit, f"border{number}")
            if widths and max(widths) > 0:
                if gap:
                    raise ChartError(f"Border {number - 1} has no width yet.", f"border{number}")
                sides = widths if len(widths) == 4 else None
                borders.append(Border(widths[0], v[f"corner{number}"] or "butted", sides,
                                      v[f"piecing{number}"], v[f"unit{number}"]
                                      or (widths[0] if v[f"piecing{number}"] else 0.0)))  # fmt: skip
            else:
                gap = True
        return tuple(borders)


class NewTopForm(LayoutForm):
    """A new job with its layout."""

    title = forms.CharField(max_length=200, label="Title")
    client = forms.CharField(max_length=200, required=False, label="Client")
    due = forms.DateField(
        required=False, label="Due", widget=forms.DateInput(attrs={"type": "date"})
    )


STARTING_CM = {"block_size": "30", "sashing": "4", "border1": "4", "border2": "12"}
"""What an empty form shows where centimetres are written, in place of its inches."""


def starting_values(unit: str = "in") -> dict:
    """What an empty form shows."""
    form = LayoutForm()
    values = {name: field.initial for name, field in form.fields.items() if field.initial}
    return values | (STARTING_CM if unit == "cm" else {})


def values_of_layout(layout: Layout | None, unit: str) -> dict:
    """What the form shows for a layout; the starting figures when there is none."""
    if layout is None:
        return starting_values(unit)

    def show(inches: float) -> str:
        return written_length(inches, unit) if inches else ""

    values: dict = {"layout": layout.kind}
    for name in ("block_size", "sashing", "float_by", "width", "height", "length"):
        if hasattr(layout, name):
            values[name] = show(getattr(layout, name))
    for name in ("rows", "columns", "direction"):
        if isinstance(getattr(layout, name, None), (int, str)):
            values[name] = getattr(layout, name)
    if isinstance(layout, (StraightSet, OnPoint, OffsetRows)):
        blocks = [*layout.blocks, ""][:2]
        values["block"] = blocks[0]
        values["second_block"] = layout.between if isinstance(layout, OnPoint) else blocks[1]
    if isinstance(layout, Medallion):
        values |= {"block": layout.centre, "block_size": show(layout.centre_size),
                   "rings_text": written.write_rings(layout.rings, unit)}  # fmt: skip
    if isinstance(layout, BlockRows):
        values["rows_text"] = written.write_rows(layout.rows, unit)
        values["row_sashing"] = values.pop("sashing")
    if isinstance(layout, Strips):
        values["strips_text"] = written.write_strips(layout.strips, unit)
    if isinstance(layout, OpenField):
        values["placed_text"] = written.write_placed(layout.placed, unit)
    for number, border in enumerate(layout.borders[:MOST_BORDERS], 1):
        widths = border.sides or (border.width,)
        values[f"border{number}"] = ("; " if unit == "cm" else ", ").join(show(w) for w in widths)
        values[f"corner{number}"] = border.corner
        values[f"piecing{number}"] = border.piecing
        values[f"unit{number}"] = show(border.unit) if border.piecing else ""
    values["fit"] = "spread" if layout.fitted else ""
    values["open_crossings"] = ", ".join(getattr(layout, "open_crossings", ()))
    flags = {name: getattr(layout, name, False) for name in ("outer_sashing", "cornerstones")}
    return values | {name: "on" for name, on in flags.items() if on}
