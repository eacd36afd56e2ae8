"""What a new studio finds on its shelf: sensible sets, to be corrected."""

from __future__ import annotations

from chorograph_core.measure import in_units
from studio.accounts.models import Studio
from studio.languages.telling import told
from studio.shelf.models import Batting, Bobbin, Machine, MarkingTool, Ruler, Thread

THREADS = [
    ("clear", "clear, fine", 100, "polyester filament", "#8fa3a8", 1500, 2600),
    ("indigo", "indigo 40", 40, "polyester", "#2b3a55", 1100, 1900),
    ("bracken", "bracken 40", 40, "polyester", "#9a5b2e", 1100, 1250),
    ("oat", "oat 50", 50, "cotton", "#d8c7a0", 1400, 2050),
    ("shell", "shell 60", 60, "polyester", "#efe3d3", 1800, 1800),
    ("slate", "slate 50", 50, "cotton", "#6b7680", 1400, 640),
]
BATTINGS = [
    ("cotton, unbonded", "cotton", "#efe6d2", 0.055, 3, False, 96, 620),
    ("cotton with scrim", "cotton", "#efe6d2", 0.06, 8, True, 96, 900),
    ("80/20", "cotton 80, polyester 20", "#f4efe2", 0.075, 8, True, 96, 1080),
    ("wool", "wool", "#f7f3e8", 0.125, 4, False, 96, 540),
    ("bonded polyester", "polyester", "#ffffff", 0.11, 6, False, 96, 400),
    ("black 80/20", "cotton 80, polyester 20", "#23242a", 0.075, 8, True, 96, 300),
]
BOBBINS = [("large class", 85, 24), ("middle class", 60, 10), ("small class", 35, 10)]
RULERS = [
    {
        "name": "straight, 12″",
        "shape": "straight",
        "length": 12,
        "edges": "both long sides",
        "etched": "1/4, 1/2, 3/4, 1, 1 1/2, 2",
    },
    {
        "name": "straight, 6″",
        "shape": "straight",
        "length": 6,
        "edges": "all four sides",
        "etched": "1/4, 1/2, 3/4, 1",
    },
    {
        "name": "arc, wide",
        "shape": "arc",
        "length": 10,
        "edges": "outer and inner curve",
        "convex": 12,
        "concave": "12.5",
    },
    {
        "name": "arc, deep",
        "shape": "arc",
        "length": 6,
        "margin": "0.25",
        "edges": "outer and inner curve",
        "convex": "3.06",
        "concave": "5.5",
    },
    {
        "name": "arc, close",
        "shape": "arc",
        "length": 7,
        "edges": "outer and inner curve",
        "convex": 5,
        "concave": "5.5",
    },
    {
        "name": "wave, 4″",
        "shape": "s",
        "length": 12,
        "edges": "the waved side",
        "period": 4,
        "height": 1,
    },
]
MARKERS = [
    ("chalk", "brushing", None, "light colours may need a damp cloth"),
    ("water-soluble pen", "wetting right through", None, "never iron before it is out"),
    ("air-fading pen", "waiting", 4, "gone within the hour on a humid day: mark just before use"),
    ("crease marker", "wetting or steam", None, "no colour; see it in a low side light"),
    ("pencil, silver", "rubbing, then washing", None, "try it on a scrap"),
    ("paper tape", "lifting it off", 48, "do not leave it overnight in the sun"),
]


def stock(studio: Studio) -> None:
    """Put the starting sets on the shelf of *studio*, each only where it has none of the kind, called in the
    language of whoever begins."""
    if not studio.threads.exists():
        Thread.objects.bulk_create(
            Thread(studio=studio, key=k, name=n, weight=w, fibre=f, colour=c, cone=cone, left=left)
            for k, n, w, f, c, cone, left in THREADS
        )
    if not studio.battings.exists():
        Batting.objects.bulk_create(
            Batting(studio=studio, name=told(n), fibre=told(f), colour=c, loft=loft, gap=gap, scrim=scrim,
                    width=w, length=length)
            for n, f, c, loft, gap, scrim, w, length in BATTINGS
        )  # fmt: skip
    if not studio.bobbins.exists():
        Bobbin.objects.bulk_create(
            Bobbin(studio=studio, name=told(n), yards=y, count=count) for n, y, count in BOBBINS
        )
    if not studio.rulers.exists():
        Ruler.objects.bulk_create(
            Ruler(
                studio=studio,
                **{
                    **each,
                    "name": in_units(told(each["name"]), studio.units),
                    "edges": told(each["edges"]),
                },
            )
            for each in RULERS
        )
    if not studio.marking_tools.exists():
        MarkingTool.objects.bulk_create(
            MarkingTool(studio=studio, name=told(n), removal=told(r), hours=h, caution=told(c))
            for n, r, h, c in MARKERS
        )
    if not studio.machines.exists():
        large = studio.bobbins.order_by("-yards").first()
        Machine.objects.bulk_create(
            [
                Machine(studio=studio, name=told("frame machine"), throat=24, bobbin=large),
                Machine(
                    studio=studio, name=told("sit-down machine"), kind="sit-down", throat=18,
                    allowance=2, regulator=False, channel_lock=False,
                    bobbin=studio.bobbins.order_by("yards").first(),
                ),
            ]
        )  # fmt: skip
