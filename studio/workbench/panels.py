"""What opens beside the sheet: the design drawer, the cutter, blocks and fabrics, appliqué."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from functools import wraps

import shapely
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_http_methods, require_POST

from chorograph_core.chart.shapes import STAMPS
from chorograph_core.designs import Space, designs
from chorograph_core.designs.drawing import fit_of
from chorograph_core.designs.legend import Entry, Layer, main_layer, role_of
from chorograph_core.designs.sisters import guided
from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.measure import CM_PER_INCH, format_length, written_length
from chorograph_core.zones import Zone, bans_of, in_words
from chorograph_core.zones.places import places_of, sisters_of
from studio.accounts.access import for_studio
from studio.asking import COLOUR, EditError
from studio.blocks import board as boards
from studio.blocks.models import own_blocks
from studio.jobs.asked import asked, ids_of, job_for
from studio.jobs.revisions import core_job
from studio.shelf.models import OwnMotif
from studio.workbench import applique, cuts, edits, guides, piecing
from studio.workbench.linework import DRAWINGS, linework_of
from studio.workbench.setting_rows import begun_in, setting_rows
from studio.workbench.spi import offered_spi, written_spi
from studio.workbench.tray import begun_with, figure_space_of, figures_of, space_of, tray_of


def or_words(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """A panel, or the sentence why it cannot be shown for the zones that were chosen."""

    @wraps(view)
    def answer(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        try:
            return view(request, *args, **kwargs)
        except EditError as error:
            return render(request, "workbench/_drawer_empty.html", {"message": str(error)})

    return answer


@for_studio
@require_http_methods(["GET", "POST"])
@or_words
def drawer(request: HttpRequest, job_id) -> HttpResponse:
    """The design drawer for the chosen zones or an entry of the legend; with ``part``, only the settings of
    the design that was touched in the tray."""
    job = job_for(request, job_id)
    core = core_job(job)
    given = asked(request)
    entry, ids, members = _meant(core, given)
    main = entry.layers[main_layer(entry)] if entry else None
    pattern = min(members, key=lambda zone: zone.polygon.area)
    key = given.get("design") or (main.design if main else "")
    space = space_of(core, pattern, main)
    if key not in designs():
        key = _best(space)
    layers = _other_layers(entry)
    drawing = designs()[key]
    in_use = main is not None and main.design == key
    over = given.get("over", "")
    if over not in edits.OVERS:
        over = main.over if main else "zone"
    if over in ("region", "sides") and not in_use:
        # A figure is proposed for all that it goes over.
        space = figure_space_of(core, members, over)
    own = begun_with(drawing, space, main)
    units = request.studio.units
    settings = (
        dict(main.settings) if main is not None and in_use else begun_in(drawing, vars(own), units)
    )
    shelf = own_motifs(request)
    if stroke := given.get("stroke"):
        # A motif of the studio's own was touched in the tray.
        kept = [each.stroke for each in shelf if each.stroke == stroke]
        settings |= {"stroke": kept[0]} if kept else {}
    context = {
        "job": job, "core": core, "entry": entry, "ids": ids, "members": members,
        "design": drawing, "proposed": not in_use, "fit": fit_of(drawing, space, own),
        "settings": setting_rows(drawing, settings, units, space, shelf),
        "thread": main.thread if main else core.threads[min(1, len(core.threads) - 1)].key,
        "spi": written_spi(main.spi, units) if main else offered_spi(units),
        "passes": main.passes if main else 1,
        "seed": main.seed if main else 0, "over": over, "in_blocks": _in_blocks(core, members),
        **_guide_of(main, units), "guide_kinds": guides.KINDS,
        "ditch": layers["ditch"] is not None if entry else True,
        "ditch_thread": layers["ditch"].thread if layers["ditch"] else core.threads[0].key,
        "breathing": layers["frame"] is not None,
        "breathing_first": _breathing(layers["frame"], units),
        "ground": layers["ground"].design if layers["ground"] else "",
        "grounds": [each for each in designs().values() if each.role == "fill"],
        "sisters": len(_sisters(core, ids)) if entry else 0,
        "name": entry.name if entry else "", "heading": _heading(core, members),
        "banned": _banned(core, ids),
        "about": _about(core, pattern), "papers": (("letter", "Letter"), ("a4", "A4")),
        # Alike zones print alike: one is enough, of different ones a few.
        "printed": [pattern.id] if len({zone.label for zone in members}) == 1 else ids[:12],
    }  # fmt: skip
    part = "_chosen" if given.get("part") else "_drawer"
    return render(request, f"workbench/{part}.html", context)


def _meant(core: CoreJob, given) -> tuple[Entry | None, list[str], list[Zone]]:
    """The entry that is meant, its zones or those that were chosen."""
    entry = next((e for e in core.legend if e.id == given.get("entry")), None)
    ids = ids_of(given) or (list(entry.zones) if entry else [])
    if entry is None:
        owners = {core.entry_of().get(zone, "") for zone in ids}
        if len(owners) == 1:
            entry = next(
                (e for e in core.legend if e.id in owners and set(e.zones) == set(ids)), None
            )
    return entry, ids, edits.chosen(core, ids)


def _in_blocks(core: CoreJob, members: list[Zone]) -> bool:
    """Whether any of several zones lies in a block, round whose middle it may be turned."""
    ids = {patch for zone in members for patch in zone.patches} if len(members) > 1 else set()
    return any(patch.block is not None and patch.id in ids for patch in core.chart.patches)


def _other_layers(entry: Entry | None) -> dict[str, Layer | None]:
    """What lies before and after the layer that an entry is known by."""
    layers = entry.layers if entry else ()
    main = main_layer(entry) if entry else 0
    return {
        "ditch": next((la for la in layers if role_of(la) == "ditch"), None),
        "frame": next((la for la in layers[:main] if role_of(la) == "frame"), None),
        "ground": next(iter(layers[main + 1 :]), None),
    }


def _banned(core: CoreJob, ids: list[str]) -> list[str]:
    """What the client forbids in these zones, said before anything is chosen for them."""
    bans = bans_of(core.zones, core.chart, core.policy.applique)
    counts = Counter(bans[name] for name in ids if name in bans)
    whole = len(ids)
    return [
        f"{in_words(ban)}{'' if count == whole else f': {count} of these {whole} zones'}."
        for ban, count in sorted(counts.items())
    ]


def _sisters(core: CoreJob, ids: list[str]) -> list[str]:
    """Zones like those of an entry that are not in it, and may be stitched."""
    found = sisters_of(core.chart, core.zones, ids)
    return [name for name in found if name not in core.untouchable]


def _guide_of(main: Layer | None, units: str) -> dict[str, str]:
    if main is None or not main.guide:
        return {"guide": "", "guide_kind": "", "guide_width": ""}
    wide = written_length(main.guide_width, units) if main.guide_width else ""
    return {"guide": guides.as_drawn(main), "guide_kind": "drawn", "guide_width": wide}


def _breathing(frame: Layer | None, units: str) -> str:
    """How far from the seam a breathing line is, as it is written; as it is offered where there is none."""
    if frame is None and units == "cm":
        return written_length(0.6 / CM_PER_INCH, units)
    return written_length(float(frame.settings.get("first", 0.25)) if frame else 0.25, units)


def _best(space: Space) -> str:
    """What suits best. The ditch is asked for by a tick of its own: something to fill with comes first."""
    filling = [drawing for drawing in designs().values() if drawing.role == "fill"]
    return max(filling, key=lambda drawing: fit_of(drawing, space).score).key


def _heading(core: CoreJob, members: list[Zone]) -> str:
    """The zones by what they are: *56 triangles*, or *5 zones* where they differ."""
    kinds = {(place.name, place.names) for place in places_of(core.chart, members)}
    if len(kinds) > 1:
        return f"{len(members)} zones"
    name, names = kinds.pop()
    return f"{len(members)} {names}" if len(members) > 1 else name.capitalize()


BUSY = 0.5
"""How busy a print is (0 to 1) from which it hides what is stitched on it."""


def _about(core: CoreJob, zone: Zone) -> str:
    """What the craft says of such cloth: fine work shows on a plain, light one, a print hides it."""
    if not zone.patches:
        return ""
    fabric = core.chart.fabric(core.chart.patch(zone.patches[0]).fabric)
    if fabric.busy >= BUSY:
        return f"{fabric.name}, a busy print: it hides quilting, so straight lines and outlines"
    return f"{fabric.name}, plain: fine work shows"


@for_studio
@require_http_methods(["GET", "POST"])
@or_words
def tray(request: HttpRequest, job_id) -> HttpResponse:
    """Every design as a small drawing of the chosen zone, asked for when the drawer stands open: what suits
    best at once, then the rest."""
    job = job_for(request, job_id)
    core = core_job(job)
    given = asked(request)
    entry, _, members = _meant(core, given)
    pattern = max(members, key=lambda zone: -zone.polygon.area)
    main = entry.layers[main_layer(entry)] if entry else None
    design = given.get("design", "")
    shown = tray_of(core, pattern, main, own_motifs(request), bool(given.get("rest")), design)
    context = {"tray": shown, "design": design, "stroke": given.get("set_stroke", ""),
               "job": job}  # fmt: skip
    return render(request, "workbench/_tray.html", context)


@for_studio
@require_POST
@or_words
def figures(request: HttpRequest, job_id) -> HttpResponse:
    """What the drawer's settings come to: minutes, layings, thread, and how the rulers serve them."""
    job = job_for(request, job_id)
    core = core_job(job)
    values = request.POST
    try:
        layers = edits.layers_from(values, core, request.studio.units)
        changed = edits.keep_entry(core, values.get("entry", ""), "", ids_of(values), layers)
    except EditError:
        # The field itself says what is wrong.
        return HttpResponse("")
    fresh = {e.id for e in changed.legend} - {e.id for e in core.legend}
    entry = next(e for e in changed.legend if e.id == (values.get("entry") or next(iter(fresh))))
    drawn = job_linework(changed, DRAWINGS, {entry.id})
    told = figures_of(
        changed, entry, drawn, linework_of(job.head.body_id, core), request.studio.units
    )
    main = entry.layers[main_layer(entry)]
    design = designs()[main.design]
    figure = next(
        (one.figure for one in drawn if one.figure and one.layer == main_layer(entry)), None
    )
    members = [core.zone(name) for name in entry.zones]
    # Told of the zone that the guide leads through, else of the smallest.
    pattern = min(members, key=lambda zone: (not guided(main, zone.polygon), zone.polygon.area))
    # What lies over many zones has to suit all of them together.
    space = figure.space if figure else space_of(core, pattern, main)
    context = {"told": told, "count": len(entry.zones), "units": request.studio.units, "design": design,
               "fit": fit_of(design, space, dict(main.settings))}  # fmt: skip
    return render(request, "workbench/_figures.html", context)


@for_studio
@require_http_methods(["GET", "POST"])
@or_words
def cutter(request: HttpRequest, job_id) -> HttpResponse:
    """The cutting tools for the chosen zones."""
    job = job_for(request, job_id)
    ids = ids_of(asked(request))
    members = edits.chosen(core_job(job), ids)
    tools, places = cuts.tools_in(request.studio.units), cuts.PLACES["corner"]
    context = {"job": job, "ids": ids, "count": len(members), "tools": tools, "places": places}
    return render(request, "workbench/_cutter.html", context)


@for_studio
@require_http_methods(["GET", "POST"])
@or_words
def on_top(request: HttpRequest, job_id) -> HttpResponse:
    """What lies over what among the chosen zones: run behind, appliqué or pieced in."""
    job = job_for(request, job_id)
    ids = ids_of(asked(request))
    core = core_job(job)
    members = edits.chosen(core, ids)
    sewn = {patch.id for patch in core.chart.patches if patch.role == "applique"}
    context = {"job": job, "ids": ids, "count": len(members),
               "behind": any(zone.whole is not None for zone in members),
               "sewn": any(sewn & set(zone.patches) for zone in members)}  # fmt: skip
    return render(request, "workbench/_on_top.html", context)


@for_studio
@require_http_methods(["GET", "POST"])
@or_words
def block_panel(request: HttpRequest, job_id) -> HttpResponse:
    """Blocks to be laid on the sheet or in the chosen zones, and the fabrics of those."""
    job = job_for(request, job_id)
    core, ids = core_job(job), ids_of(asked(request))
    places, fabrics, stones = [], [], 0
    if ids:
        places, fabrics = piecing.blocks_of(core, ids), piecing.fabrics_of(core, ids)
        if isinstance(core.survey, piecing.CROSSED):
            stones = len(piecing.cornerstones_of(core, ids))
    context = {"job": job, "ids": ids, "places": places, "fabrics": fabrics, "stones": stones,
               "in_blocks": any(patch.block is not None for patch in core.chart.patches),
               "laid_out": core.survey is not None,
               "library": boards.offered(own_blocks(request.studio))}  # fmt: skip
    return render(request, "workbench/_block.html", context)


def own_motifs(request: HttpRequest) -> list[OwnMotif]:
    """What the studio drew itself."""
    return list(OwnMotif.objects.filter(studio=request.studio))


@for_studio
@require_http_methods(["GET", "POST"])
def applique_panel(request: HttpRequest, job_id) -> HttpResponse:
    """Shapes to sew on: the stamps, letters, the pen, and their fabric."""
    job = job_for(request, job_id)
    core = core_job(job)
    used = {patch.fabric for patch in core.chart.patches}
    context = {
        "job": job,
        "stamps": [
            {"key": key, "name": stamp.name, "d": outline_path(stamp.shape(1.0), 3)}
            for key, stamp in STAMPS.items()
        ],
        "fabrics": [core.chart.fabric(key) for key in sorted(used)],
        "middle": [
            format_length(side / 2, request.studio.units, 16).replace("″", "") for side in core.size
        ],
        "height": "10" if request.studio.units == "cm" else "4",
    }
    return render(request, "workbench/_applique.html", context)


@for_studio
@require_POST
def applique_look(request: HttpRequest, job_id) -> HttpResponse:
    """The shape as it would be sewn on, or what is wrong with its numbers."""
    job = job_for(request, job_id)
    try:
        shapes, _ = applique.shapes_of(request.POST, request.studio.units)
    except EditError as error:
        return render(request, "workbench/_stamp.html", {"fault": str(error)}, status=422)
    x0, y0, x1, y1 = shapely.union_all(shapes).bounds
    pad = 0.04 * max(x1 - x0, y1 - y0)
    fabric = next(
        (f for f in core_job(job).chart.fabrics if f.key == request.POST.get("fabric")), None
    )
    colour = request.POST.get("colour", "")
    context = {
        "d": " ".join(outline_path(shape, 3) for shape in shapes),
        "frame": f"{x0 - pad:.3f} {y0 - pad:.3f} {x1 - x0 + 2 * pad:.3f} {y1 - y0 + 2 * pad:.3f}",
        "colour": fabric.colour if fabric else colour if COLOUR.fullmatch(colour) else "#6f8a5a",
        "width": x1 - x0, "height": y1 - y0, "units": request.studio.units,
    }  # fmt: skip
    return render(request, "workbench/_stamp.html", context)


@for_studio
@require_http_methods(["GET", "POST"])
def place_panel(request: HttpRequest, job_id) -> HttpResponse:
    """A block to be placed on an open field."""
    job = job_for(request, job_id)
    context = {"job": job, "library": boards.offered(own_blocks(request.studio)),
               "size": "30" if request.studio.units == "cm" else "9"}  # fmt: skip
    return render(request, "workbench/_place.html", context)


@for_studio
@require_POST
def place_look(request: HttpRequest, job_id) -> HttpResponse:
    """The block as it would be placed, or what is wrong with its numbers."""
    job = job_for(request, job_id)
    own = [block.key for block in own_blocks(request.studio)]
    try:
        placed = piecing.placed_block(request.POST, request.studio.units, own)
    except EditError as error:
        return render(request, "workbench/_stamp.html", {"fault": str(error)}, status=422)
    size, pieces = placed.size, piecing.pieces_of(core_job(job), placed)
    edge = f"{-size * 0.54:.3f} {-size * 0.54:.3f} {size * 1.08:.3f} {size * 1.08:.3f}"
    context = {"d": " ".join(outline_path(p.polygon, 3) for p in pieces), "frame": edge,
               "colour": "#7f9cae", "width": size, "height": size, "see_through": True,
               "units": request.studio.units}  # fmt: skip
    return render(request, "workbench/_stamp.html", context)
