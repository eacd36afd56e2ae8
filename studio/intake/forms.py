"""The intake as one form, from a core job and back to it."""

from __future__ import annotations

import datetime
from dataclasses import replace

from django import forms
from django.utils import timezone

from chorograph_core.designs.drawing import EDGE_FINISHES
from chorograph_core.designs.legend import Thread
from chorograph_core.estimating import (
    CONDITIONS,
    SIDES,
    Backing,
    Batting,
    Condition,
    Measures,
    MeasuringError,
    Wishes,
    finish_in_words,
)
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_cm, format_length, parse_length, written_length
from chorograph_core.reckon import Machine
from studio.fields import LengthField
from studio.writing import written_day

MEASURES = {
    "widths": ("Width at the top", "Width in the middle", "Width at the bottom"),
    "heights": ("Height at the left", "Height in the middle", "Height at the right"),
    "diagonals": ("Diagonal, top left down", "Diagonal, top right down"),
    "borders": tuple(f"{side.capitalize()} border, its length" for side in SIDES),
    "bodies": tuple(f"{side.capitalize()} edge of the body" for side in SIDES),
}
FINISHES = [(key, finish_in_words(key)[0]) for key in EDGE_FINISHES]
APPLIQUE = [("full", "stitch it like the rest"), ("light", "a few holding lines"),
            ("outline", "outline only, in the ditch"), ("leave", "leave it alone")]  # fmt: skip
SOURCES = [("studio", "the studio"), ("client", "the client")]
OTHER = "other"


class OptionalLength(LengthField):
    """A length that may be left open; cleans to None then."""

    def __init__(self, **kwargs) -> None:
        super().__init__(required=False, **kwargs)

    def clean(self, value):
        """Inches, or None for an empty field."""
        return super().clean(value) if (value or "").strip() else None


class IntakeForm(forms.Form):
    """All facts of a consult. *shelf* is a `ShelfChoices`; *stored_due* may be past, others not."""

    title = forms.CharField(max_length=200, label="Title")
    client = forms.CharField(max_length=200, required=False, label="Client")
    contact = forms.CharField(max_length=300, required=False, label="Phone and address")
    taken = forms.DateField(required=False, label="Consult held on")
    due = forms.DateField(required=False, label="Wanted by")
    at_hand = forms.DateField(required=False, label="The quilt is here from")
    occasion = forms.CharField(max_length=200, required=False, label="Occasion")
    backing_source = forms.ChoiceField(choices=SOURCES, required=False, label="Backing from")
    backing_width = OptionalLength(label="Backing, width")
    backing_height = OptionalLength(label="Backing, height")
    cloth_width = OptionalLength(label="Cloth to piece from, usable width")
    backing_note = forms.CharField(max_length=300, required=False, label="Backing fabric")
    batting = forms.ChoiceField(required=False, label="Batting")
    batting_source = forms.ChoiceField(choices=SOURCES, required=False, label="Batting from")
    batting_name = forms.CharField(max_length=200, required=False, label="Its name or fibre")
    batting_colour = forms.RegexField(r"^#[0-9a-fA-F]{6}$", required=False, label="Its colour")
    batting_gap = OptionalLength(label="Lines at most apart")
    batting_loft = OptionalLength(label="Loft of one layer")
    batting_layers = forms.IntegerField(min_value=1, max_value=3, required=False, label="Layers")
    batting_width = OptionalLength(label="Piece in hand, width")
    batting_height = OptionalLength(label="Piece in hand, height")
    edge_finish = forms.ChoiceField(choices=FINISHES, required=False, label="Edge finish")
    machine = forms.ChoiceField(required=False, label="Machine")
    applique = forms.ChoiceField(choices=APPLIQUE, required=False, label="Appliqué")
    threads = forms.MultipleChoiceField(required=False, label="Threads agreed")
    style = forms.CharField(max_length=200, required=False, label="Style")
    level = forms.ChoiceField(required=False, label="Level of work")
    budget = forms.CharField(max_length=60, required=False, label="Budget")
    rush = forms.BooleanField(required=False, label="Rush")
    bind = forms.BooleanField(required=False, label="Bind it too")
    repair_hours = forms.FloatField(
        min_value=0, max_value=200, required=False, label="Repairs, hours"
    )
    note = forms.CharField(max_length=4000, required=False, label="Wishes and bans in her words")

    def __init__(self, *args, shelf, unit: str = "in", stored_due: str = "", **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.shelf, self.unit, self.stored_due = shelf, unit, stored_due
        for group, labels in MEASURES.items():
            for k, label in enumerate(labels):
                self.fields[f"{group}_{k}"] = OptionalLength(label=label)
        for kind, label in CONDITIONS.items():
            self.fields[f"found_{kind}"] = forms.BooleanField(required=False, label=label)
            self.fields[f"note_{kind}"] = forms.CharField(
                max_length=300, required=False, label=label
            )
        for field in self.fields.values():
            if isinstance(field, LengthField):
                field.unit = unit
        self.fields["batting"].choices = [("", "not yet chosen"), *shelf.batting_names(),
                                          (OTHER, "another, described here")]  # fmt: skip
        self.fields["machine"].choices = [("", "the archive's own"), *shelf.machine_names()]
        self.fields["threads"].choices = shelf.thread_names()
        self.fields["level"].choices = [("", "not yet agreed"), *shelf.levels]

    @property
    def conditions(self) -> list[tuple]:
        """For each thing looked for: its key, the tick, the note."""
        return [(kind, self[f"found_{kind}"], self[f"note_{kind}"]) for kind in CONDITIONS]

    @property
    def told_fields(self) -> list:
        """The fields that have a place for their fault beside them."""
        silent = ("found_", "note_", "threads", "level", "rush", "bind")
        return [self[name] for name in self.fields if not name.startswith(silent)]

    @property
    def measure_fields(self) -> list:
        """All fields of the tape."""
        return [self[f"{g}_{k}"] for g, labels in MEASURES.items() for k in range(len(labels))]

    @property
    def thread_choices(self) -> list[tuple]:
        """Threads of the shelf, and whether each is agreed."""
        agreed = self["threads"].value() or []
        return [(thread, key in agreed) for key, thread in self.shelf.threads.items()]

    def clean_due(self) -> datetime.date | None:
        """A date in the past is refused, unless it was there already."""
        due = self.cleaned_data["due"]
        if due and due.isoformat() != self.stored_due and due < timezone.localdate():
            raise forms.ValidationError(
                f"{written_day(due, 'long_year')} is past; nothing can be promised for it."
            )
        return due

    def clean_taken(self) -> datetime.date | None:
        """A consult that has not been held cannot be noted as held."""
        taken = self.cleaned_data["taken"]
        if taken and taken > timezone.localdate():
            raise forms.ValidationError("That day has not come yet.")
        return taken

    def clean(self):
        """Measures as one; what no quilt measures is named at its field."""
        values = super().clean()
        measures = Measures(
            **{g: tuple(values.get(f"{g}_{k}") for k in range(len(labels)))
               for g, labels in MEASURES.items()}
        )  # fmt: skip
        try:
            measures.check()
        except MeasuringError as error:
            self.add_error(error.field.replace(".", "_"), str(error))
        for name in ("backing_width", "backing_height", "batting_width", "batting_height"):
            if (values.get(name) or 0) > 400:
                self.add_error(name, "That is wider than any roll of cloth.")
        if values.get("cloth_width") is not None and not 4 <= values["cloth_width"] <= 200:
            self.add_error("cloth_width", "Cloth is between 4″ and 200″ wide.")
        for side in ("backing", "batting"):
            pair = values.get(f"{side}_width"), values.get(f"{side}_height")
            if (pair[0] is None) != (pair[1] is None):
                name = f"{side}_{'width' if pair[0] is None else 'height'}"
                if name not in self.errors:
                    self.add_error(name, "Both width and height are needed, or neither.")
        if values.get("batting") == OTHER:
            if not values.get("batting_name", "").strip():
                self.add_error("batting_name", "Say what it is.")
            for name, low, high in (("batting_gap", 0.25, 24), ("batting_loft", 0.005, 1)):
                value = values.get(name)
                if value is not None and not low <= value <= high:
                    self.add_error(name, f"This goes from {low:g}″ to {high:g}″.")
        values["measures"] = measures
        return values

    def applied_to(self, core: CoreJob) -> CoreJob:
        """The job with everything the form says. Only after `is_valid`."""
        v = self.cleaned_data
        conditions = tuple(
            Condition(kind, v[f"found_{kind}"], v[f"note_{kind}"].strip())
            for kind in CONDITIONS
            if v[f"found_{kind}"] or v[f"note_{kind}"].strip()
        )
        wishes = Wishes(
            v["style"], v["level"], v["occasion"], v["budget"], v["rush"], v["bind"],
            v["repair_hours"] or 0.0, v["note"],
        )  # fmt: skip
        intake = replace(
            core.intake,
            taken=v["taken"].isoformat() if v["taken"] else "", contact=v["contact"],
            measures=v["measures"], conditions=conditions, backing=self._backing(),
            batting=self._batting(core), wishes=wishes,
            at_hand=v["at_hand"].isoformat() if v["at_hand"] else "",
        )  # fmt: skip
        policy = replace(
            core.policy, edge_finish=v["edge_finish"] or core.policy.edge_finish,
            applique=v["applique"] or core.policy.applique,
        )  # fmt: skip
        return replace(
            core, title=v["title"], client=v["client"],
            due=v["due"].isoformat() if v["due"] else "", intake=intake, policy=policy,
            machine=self._machine(core), threads=self._threads(core),
            rulers=self.shelf.rulers or core.rulers,
        )  # fmt: skip

    def _backing(self) -> Backing | None:
        v = self.cleaned_data
        made = Backing(v["backing_source"] or "client", v["backing_width"], v["backing_height"],
                       v["cloth_width"] or 42.0, v["backing_note"])  # fmt: skip
        return None if made == Backing() and not v["backing_source"] else made

    def _batting(self, core: CoreJob) -> Batting | None:
        v = self.cleaned_data
        if not v["batting"]:
            return None
        rest = {
            "layers": v["batting_layers"] or 1, "width": v["batting_width"],
            "height": v["batting_height"], "source": v["batting_source"] or "studio",
        }  # fmt: skip
        if v["batting"] != OTHER:
            return replace(self.shelf.battings[v["batting"]], **rest)
        return Batting(
            v["batting_name"], colour=v["batting_colour"] or "#f4efe2",
            loft=v["batting_loft"] or 0.09, gap=v["batting_gap"] or 4.0, **rest,
        )  # fmt: skip

    def _machine(self, core: CoreJob) -> Machine:
        chosen = self.shelf.machines.get(self.cleaned_data["machine"])
        return chosen(core.machine) if chosen else core.machine

    def _threads(self, core: CoreJob) -> tuple[Thread, ...]:
        """Those agreed, and those the legend uses already."""
        used = {layer.thread for entry in core.legend for layer in entry.layers}
        agreed = self.cleaned_data["threads"]
        if not agreed:
            return core.threads
        kept = [t for t in core.threads if t.key in used or t.key in agreed]
        known = {t.key for t in kept}
        return tuple(kept + [self.shelf.threads[key] for key in agreed if key not in known])


def values_of(core: CoreJob, shelf, unit: str) -> dict:
    """What the form shows for *core*: field names to what is written in them."""
    intake, wishes = core.intake, core.intake.wishes

    def show(inches: float | None) -> str:
        """As written by hand where that says all of it, else with every figure."""
        if inches is None:
            return ""
        by_hand = format_length(inches, unit, 16).replace("″", "")
        for text in (by_hand, format_cm(inches), written_length(inches, unit)):
            if abs(parse_length(text, unit) - inches) < 1e-9:
                return text
        return f"{inches!r} in"

    values = {
        "title": core.title, "client": core.client, "contact": intake.contact,
        "taken": intake.taken, "due": core.due, "at_hand": intake.at_hand, "occasion": wishes.occasion,
        "edge_finish": core.policy.edge_finish, "applique": core.policy.applique,
        "threads": [t.key for t in core.threads if t.key in shelf.threads], "style": wishes.style,
        "level": wishes.level, "budget": wishes.budget, "rush": wishes.rush, "bind": wishes.bind,
        "repair_hours": f"{wishes.repair_hours:g}" if wishes.repair_hours else "",
        "note": wishes.note, "machine": shelf.machine_of(core.machine),
    }  # fmt: skip
    for group, labels in MEASURES.items():
        for k in range(len(labels)):
            values[f"{group}_{k}"] = show(getattr(intake.measures, group)[k])
    for kind in CONDITIONS:
        found = intake.condition(kind)
        values[f"found_{kind}"], values[f"note_{kind}"] = found.found, found.note
    backing = intake.backing or Backing()
    values |= {
        "backing_source": backing.source, "backing_width": show(backing.width),
        "backing_height": show(backing.height), "cloth_width": show(backing.cloth_width),
        "backing_note": backing.note,
    }  # fmt: skip
    batting = intake.batting
    if batting is not None:
        key = shelf.batting_of(batting)
        values |= {
            "batting": key, "batting_source": batting.source, "batting_layers": batting.layers,
            "batting_width": show(batting.width), "batting_height": show(batting.height),
        }  # fmt: skip
        if key == OTHER:
            values |= {
                "batting_name": batting.name, "batting_colour": batting.colour,
                "batting_gap": show(batting.gap), "batting_loft": show(batting.loft),
            }  # fmt: skip
    return values
