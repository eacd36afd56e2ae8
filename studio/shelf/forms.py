"""One form for each kind of thing on the shelf."""

from __future__ import annotations

from django import forms
from django.db import models
from django.utils.text import slugify

from chorograph_core.measure import CM_PER_INCH, LengthError, parse_length
from studio.accounts.seen import SeenForm
from studio.shelf.models import Batting, Bobbin, Machine, MarkingTool, Ruler, Thread


class _Kept(SeenForm):
    """A form for something on the shelf of *studio*, in its units or those that are given."""

    def __init__(self, *args, studio, units: str = "", **kwargs) -> None:
        super().__init__(*args, units=units or studio.units, **kwargs)
        self.studio = studio
        self.instance.studio = studio


class ThreadForm(_Kept):
    """A thread; its key is made from its name and then stays."""

    class Meta:
        model = Thread
        fields = ["name", "weight", "fibre", "colour", "cone", "left"]

    measured = {"cone": "thread", "left": "thread"}

    def clean(self):
        """A key of its own for a new thread."""
        values = super().clean()
        if not self.instance.pk and values.get("name"):
            base = slugify(values["name"])[:50] or "thread"
            taken = set(Thread.objects.filter(studio=self.studio).values_list("key", flat=True))
            names = [base, *(f"{base}-{k}" for k in range(2, 1000))]
            self.instance.key = next(name for name in names if name not in taken)
        return values


class BattingForm(_Kept):
    """A batting."""

    class Meta:
        model = Batting
        fields = ["name", "fibre", "colour", "loft", "gap", "scrim", "width", "length"]

    measured = dict.fromkeys(("loft", "gap", "width", "length"), "length")


def _in_cm(text: str) -> str:
    """A length kept in inches, as one writes it in centimetres."""
    try:
        return f"{parse_length(text.strip()) * CM_PER_INCH:.4g}"
    except LengthError:
        return text.strip()


def _lengths_in_cm(text: str) -> str:
    """Lengths kept in inches with commas between, as one writes them in centimetres."""
    return ", ".join(_in_cm(part) for part in text.split(",") if part.strip())


def _apart(text: str) -> list[str]:
    """Lengths written with spaces only; a whole number before a fraction belongs to it."""
    words, lengths = text.split(), []
    while words:
        word = words.pop(0)
        if words and word.isdigit() and "/" in words[0]:
            word = f"{word} {words.pop(0)}"
        lengths.append(word)
    return lengths


class RulerForm(_Kept):
    """A ruler. A shape needs its own figures; etched lines are lengths."""

    class Meta:
        model = Ruler
        fields = ["name", "shape", "edges", "length", "thickness", "etched", "taped", "centred",
                  "convex", "concave", "period", "height", "margin"]  # fmt: skip

    measured = dict.fromkeys(
        ("length", "thickness", "convex", "concave", "period", "height", "margin"), "length"
    )

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        if self.units == "cm":
            for name in ("etched", "taped"):
                field = self.fields[name]
                field.label = str(field.label).replace("inches", "cm")
                field.help_text = "for instance 0.5, 1, 2"
                self.initial[name] = _lengths_in_cm(str(self.initial.get(name) or ""))

    def said(self, name: str, thing: models.Model) -> str:
        """Lengths in a row are told in the studio's units too."""
        told = super().said(name, thing)
        return _lengths_in_cm(told) if self.units == "cm" and name in ("etched", "taped") else told

    def clean_etched(self) -> str:
        """Lengths with commas or spaces between; kept with commas, so 1, 1 1/2 stay two."""
        return self._lengths("etched")

    def clean_taped(self) -> str:
        """The same."""
        return self._lengths("taped")

    def _lengths(self, field: str) -> str:
        if self.units == "cm" and field not in self.changed_data:
            return getattr(self.instance, field)
        text = self.cleaned_data[field].replace("″", " ")
        lengths = _apart(text) if "," not in text else [part.strip() for part in text.split(",")]
        for length in filter(None, lengths):
            try:
                parse_length(length, self.units)
            except LengthError as error:
                raise forms.ValidationError(str(error)) from None
        if self.units == "cm":
            lengths = [f"{parse_length(each, 'cm'):.5g}" for each in lengths if each]
        return ", ".join(filter(None, lengths))

    def clean(self):
        """What the shape cannot do without."""
        values = super().clean()
        round_ = ("convex", "concave")
        needed = {"arc": round_, "circle": round_, "s": ("period", "height")}.get(
            values.get("shape"), ()
        )
        if needed and not any(values.get(name) for name in needed):
            self.add_error(needed[0], "This shape needs it.")
        if values.get("shape") == "s" and values.get("period") and not values.get("height"):
            self.add_error("height", "An S-edge needs its height.")
        if (
            values.get("shape") == "s" and values.get("period") and values.get("height")
            and 2 * values["height"] > values["period"]
        ):  # fmt: skip
            self.add_error("height", "A wave is at most half as high as it is long.")
        if (
            values.get("length")
            and values.get("margin")
            and 2 * values["margin"] >= values["length"]
        ):
            self.add_error("margin", "Nothing of the edge would be left to stitch along.")
        return values


class MarkingToolForm(_Kept):
    """A marking tool."""

    class Meta:
        model = MarkingTool
        fields = ["name", "removal", "hours", "caution"]


class BobbinForm(_Kept):
    """A class of bobbins."""

    class Meta:
        model = Bobbin
        fields = ["name", "yards", "count"]

    measured = {"yards": "thread"}


class MachineForm(_Kept):
    """A machine."""

    class Meta:
        model = Machine
        fields = ["name", "kind", "throat", "takeup", "backing_roll", "clearance", "foot_radius",
                  "allowance", "directions", "ruler_base", "seated", "regulator", "channel_lock",
                  "bobbin"]  # fmt: skip

    measured = dict.fromkeys(
        ("throat", "takeup", "backing_roll", "clearance", "foot_radius", "allowance"), "length"
    )

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.fields["bobbin"].queryset = Bobbin.objects.filter(studio=self.studio)


KINDS = {
    "thread": (Thread, ThreadForm, "Threads", "thread"),
    "batting": (Batting, BattingForm, "Battings", "batting"),
    "bobbin": (Bobbin, BobbinForm, "Bobbins", "class of bobbins"),
    "ruler": (Ruler, RulerForm, "Rulers", "ruler"),
    "marker": (MarkingTool, MarkingToolForm, "Marking tools", "marking tool"),
    "machine": (Machine, MachineForm, "Machines", "machine"),
}
"""What the shelf holds: model, form, heading, and what one of them is called."""
