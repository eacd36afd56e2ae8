"""The studio's blocks: the list of them all, and the drafting board."""

from __future__ import annotations

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.blocks import block_library
from chorograph_core.blocks.library import Block
from chorograph_core.blocks.own_blocks import draft_of
from chorograph_core.blocks.wedges import TIPS
from chorograph_core.chart import ChartError
from studio.accounts.access import for_studio
from studio.blocks import board as boards
from studio.blocks.models import OwnBlock
from studio.plain import plain

ROUND = {"shape": "ring", "count": "12", "inner": "1 1/2", "outer": "4 3/4", "round_size": "12",
         "tip": "straight"}  # fmt: skip
SHAPES = [("ring", "plate"), ("fan", "fan"), ("star", "star")]
IN_CM = {"inner": "4", "outer": "12", "round_size": "30"}


@for_studio
@require_GET
def block_list(request: HttpRequest) -> HttpResponse:
    """All blocks: the studio's own, and those that ship."""
    own = [
        {**boards.picture(each.block), "pk": each.pk}
        for each in OwnBlock.objects.filter(studio=request.studio)
    ]
    shipped = [
        {**look, "board": draft_of(block_library()[look["key"]]) is not None}
        for look in boards.shipped()
    ]
    return render(request, "blocks/list.html", {"own": own, "shipped": shipped})


@for_studio
@require_http_methods(["GET", "POST"])
def block(request: HttpRequest, own_id: int = 0) -> HttpResponse:
    """Draft a block, or change one; a kept block replaces the one that was opened."""
    found = get_object_or_404(OwnBlock, pk=own_id, studio=request.studio) if own_id else None
    round_values = {**ROUND, **(IN_CM if request.studio.units == "cm" else {})}
    context = {"item": found, "tools": boards.tools(), "colours": boards.COLOURS,
               "shapes": SHAPES, "tips": TIPS, "status": 200}  # fmt: skip
    if request.method == "POST":
        name = plain(request.POST.get("name"), 60)
        is_round = request.POST.get("way") == "round"
        board = boards.read(request.POST)
        try:
            made = (
                boards.rounded(request.POST, name, request.studio.units)
                if is_round
                else boards.drafted(board, name)
            )
            _keep(request, found, made)
            return redirect("blocks")
        except ChartError as error:
            context |= {"fault": str(error), "field": error.field, "status": 400}
        round_values |= {key: request.POST[key] for key in round_values if key in request.POST}
    else:
        start = found.block if found else block_library().get(request.GET.get("from", ""))
        draft = draft_of(start) if start else None
        board = boards.Board(draft or boards.START)
        name = found.name if found else f"{start.name}, changed" if start and draft else ""
        is_round = bool(found and start and start.round) or request.GET.get("way") == "round"
        if is_round and start and start.round:
            round_values |= _shown_round(start, request.studio.units)
    context |= {"board": board, "name": name, "is_round": is_round, "round": round_values}
    return render(request, "blocks/board.html", context, status=context["status"])


def _shown_round(made: Block, unit: str) -> dict[str, str]:
    """The fields of a round block, for a size of 12 inches, or of 30 centimetres."""
    values = dict(made.round)
    count = values.get("wedges", values.get("points", 12))
    size, mark = (30, "cm") if unit == "cm" else (12, "in")
    shown = {
        name: f"{values[name] * size:.4g} {mark}" for name in ("inner", "outer") if name in values
    }
    return {"shape": values["shape"], "count": str(count), "round_size": f"{size} {mark}",
            "tip": values.get("tip", "straight"), **shown}  # fmt: skip


def _keep(request: HttpRequest, found: OwnBlock | None, made: Block) -> None:
    item = found or OwnBlock(studio=request.studio)
    item.take(made)
    try:
        with transaction.atomic():
            item.save()
    except IntegrityError:
        raise ChartError(f"There is a block called “{made.name}” already.", "name") from None


@for_studio
@require_POST
def board_act(request: HttpRequest) -> HttpResponse:
    """The board after a cell was clicked or a button pressed."""
    board = boards.act(boards.read(request.POST), request.POST)
    status = 422 if board.fault else 200
    return render(request, "blocks/_board.html", {"board": board}, status=status)


@for_studio
@require_POST
def round_look(request: HttpRequest) -> HttpResponse:
    """A round block while its numbers are typed, or what is wrong with them."""
    try:
        made = boards.rounded(request.POST, "round", request.studio.units)
    except ChartError as error:
        context = {"fault": str(error), "field": error.field}
        return render(request, "blocks/_round.html", context, status=422)
    return render(request, "blocks/_round.html", {"made": boards.picture(made)})


@for_studio
@require_POST
def drop_block(request: HttpRequest, own_id: int) -> HttpResponse:
    """Take an own block off the list; tops charted with it keep it."""
    get_object_or_404(OwnBlock, pk=own_id, studio=request.studio).delete()
    return redirect("blocks")
