"""The studio's shelf. What is on it is data; nothing here names a maker."""

from __future__ import annotations

from decimal import Decimal

from django.core.validators import MinValueValidator, RegexValidator
from django.db import models
from django.db.models import F, Q, Sum
from django.db.models.functions import Coalesce

from chorograph_core.designs.registry import for_strokes
from studio.accounts.models import Studio
from studio.numbers import number

COLOUR = RegexValidator(r"^#[0-9a-fA-F]{6}$", "A colour is written like #2b3a55.")
ABOVE = MinValueValidator(Decimal("0.001"), "This must be more than zero.")
NOT_BELOW = MinValueValidator(0, "This cannot be below zero.")


class Thread(models.Model):
    """A thread. *left* is all there is in yards: on the open cone and on full ones.

    The database itself keeps *left* from going below zero, whoever books at the same moment.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="threads")
    key = models.SlugField(max_length=60)
    name = models.CharField("Name", max_length=120)
    weight = number("Weight (wt)", 5, 1, ABOVE)
    fibre = models.CharField("Fibre", max_length=60, blank=True)
    colour = models.CharField("Colour", max_length=7, validators=[COLOUR], default="#2b3a55")
    cone = number("Yards on a full cone", 8, 1, ABOVE)
    left = number("Yards left in all", 9, 1, NOT_BELOW)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "key"], name="thread_key_once"),
            models.CheckConstraint(condition=Q(left__gte=0), name="thread_left_not_negative"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def cones(self) -> str:
        """How many cones that is: ``2 full, 340 yd on the open one``."""
        full, rest = divmod(self.left, self.cone)
        parts = [f"{full:.0f} full"] if full else []
        parts += [f"{rest:.0f} yd on the open one"] if rest or not full else []
        return ", ".join(parts)


class Batting(models.Model):
    """A batting: from a roll (*width* and *length* of what is left of it) or as pieces."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="battings")
    name = models.CharField("Name", max_length=120)
    fibre = models.CharField("Fibre", max_length=80, blank=True)
    colour = models.CharField("Colour", max_length=7, validators=[COLOUR], default="#f4efe2")
    loft = number("Loft under the foot, inches", 5, 3, ABOVE)
    gap = number("Largest distance between lines, inches", 5, 2, ABOVE)
    scrim = models.BooleanField("With scrim", default=False)
    width = number("Width of the roll, inches", 6, 2, ABOVE)
    length = number("Left on the roll, inches", 8, 2, NOT_BELOW, default=0)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(condition=Q(length__gte=0), name="batting_not_negative")
        ]

    def __str__(self) -> str:
        return self.name


class Ruler(models.Model):
    """A ruler. Straight: *length* and etched lines. Arc: both radii. S-edge: period and height. Circle: the
    radius of its rim and of its hole."""

    SHAPES = [("straight", "straight edge"), ("arc", "arc"), ("s", "S-edge"), ("circle", "circle")]

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="rulers")
    name = models.CharField("Name", max_length=120)
    shape = models.CharField("Shape", max_length=8, choices=SHAPES, default="straight")
    length = number("Length of the edge, inches", 5, 2, ABOVE)
    thickness = number("Thickness, inches", 4, 3, ABOVE, default=Decimal("0.25"))
    etched = models.CharField(
        "Etched lines, inches from the edge", max_length=120, blank=True,
        help_text="for instance 1/4, 1/2, 3/4, 1",
    )  # fmt: skip
    taped = models.CharField(
        "Own marks, inches from the edge", max_length=120, blank=True,
        help_text="tape or pen, for instance 5/8",
    )  # fmt: skip
    centred = models.BooleanField("Mark in its middle", default=True)
    edges = models.CharField(
        "Edges to stitch along", max_length=120, blank=True,
        help_text="for instance both long sides",
    )  # fmt: skip
    convex = number("Outer (convex) radius, inches", 6, 2, ABOVE, null=True, blank=True)
    concave = number("Inner (concave) radius, inches", 6, 2, ABOVE, null=True, blank=True)
    period = number("Period of the S, inches", 5, 2, ABOVE, null=True, blank=True)
    height = number("Height of the S, inches", 5, 2, ABOVE, null=True, blank=True)
    margin = number("Kept from each tip, inches", 4, 2, NOT_BELOW, default=1)

    class Meta:
        ordering = ["shape", "name"]

    def __str__(self) -> str:
        return self.name

    @property
    def thin(self) -> bool:
        """Too thin for a ruler foot: it slips under or over it."""
        return self.thickness < Decimal("0.235")


class MarkingTool(models.Model):
    """How a mark comes out again, and how long it lasts (*hours*; None: until it is taken out)."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="marking_tools")
    name = models.CharField("Name", max_length=120)
    removal = models.CharField("Comes out by", max_length=160)
    hours = number("Lasts, hours", 6, 1, ABOVE, null=True, blank=True)
    caution = models.CharField("Mind", max_length=200, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Bobbin(models.Model):
    """A class of bobbins: what one holds, and how many there are."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="bobbins")
    name = models.CharField("Name", max_length=80)
    yards = number("Yards on one", 6, 1, ABOVE)
    count = models.PositiveIntegerField("How many", default=0)

    class Meta:
        ordering = ["-yards"]

    def __str__(self) -> str:
        return self.name


class Machine(models.Model):
    """A machine as the sums need it. Inches."""

    KINDS = [("frame", "frame"), ("sit-down", "sit-down")]
    DIRECTIONS = [("all", "in all directions"), ("right", "to the right"), ("left", "to the left"),
                  ("down", "towards you"), ("up", "away from you")]  # fmt: skip

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="machines")
    name = models.CharField("Name", max_length=120)
    kind = models.CharField("Kind", max_length=8, choices=KINDS, default="frame")
    throat = number("Throat, inches", 5, 2, ABOVE)
    takeup = number("Take-up roll, bar diameter", 5, 2, ABOVE, default=Decimal("3"))
    backing_roll = number("Backing roll, bar diameter", 5, 2, ABOVE, default=Decimal("2.5"))
    clearance = number("Clearance, inches", 5, 2, NOT_BELOW, default=4)
    foot_radius = number("Needle to ruler edge, inches", 5, 4, ABOVE, default=Decimal("0.25"))  # fmt: skip
    allowance = number("Backing beyond the top, inches", 5, 2, NOT_BELOW, default=4)
    directions = models.CharField(
        "Long lines stitch well", max_length=120, default="all", choices=DIRECTIONS,
        help_text="Some machines shred the thread in one direction; they then go back empty.",
    )  # fmt: skip
    ruler_base = models.BooleanField("Ruler base round the needle plate", default=False)
    seated = models.BooleanField("Worked sitting", default=False)
    regulator = models.BooleanField("Stitch regulator", default=True)
    channel_lock = models.BooleanField("Channel lock", default=True)
    bobbin = models.ForeignKey(
        Bobbin, null=True, blank=True, on_delete=models.SET_NULL, verbose_name="Bobbin class"
    )

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


def with_reserved(threads: models.QuerySet) -> models.QuerySet:
    """Threads with *reserved* yards and what is then *free* (below zero when they run short)."""
    held = Coalesce(
        Sum("bookings__yards", filter=Q(bookings__state="reserved")), Decimal(0),
        output_field=models.DecimalField(),
    )  # fmt: skip
    return threads.annotate(reserved=held).annotate(free=F("left") - F("reserved"))


class OwnMotif(models.Model):
    """A motif that the studio drew itself: a *stroke* as `chorograph_core.designs.own_strokes` keeps it. A
    layer that uses it holds the stroke, so that none changes under a job."""

    KINDS = [("strip", "along a strip"), ("figure", "a figure")]

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="own_motifs")
    name = models.CharField("Name", max_length=60)
    kind = models.CharField("Kind", max_length=8, choices=KINDS, default="strip")
    stroke = models.TextField("Stroke")

    class Meta:
        ordering = ["name", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "name"], name="own_motif_named_once")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def card(self) -> str:
        """Its name in the address of its stroke card."""
        return f"own-{self.pk}"

    @property
    def designs(self) -> tuple[str, ...]:
        """The designs that draw it, by key."""
        return tuple(each.key for each in for_strokes(self.kind))
