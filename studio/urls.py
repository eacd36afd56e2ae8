"""All addresses. Those under jobs/ answer only for the signed-in person's studio."""

from django.contrib.auth import views as auth
from django.urls import path, register_converter, reverse_lazy
from django.views.generic import RedirectView

from studio.accounts.begin import begin
from studio.accounts.sign_in import SignIn
from studio.agenda import views as agenda
from studio.blocks import views as blocks
from studio.book import views as book
from studio.intake import tracing_views as tracing
from studio.intake import views as intake
from studio.jobs import from_drawing, panels, work
from studio.jobs import views as jobs
from studio.post import views as post
from studio.quotes import views as quotes
from studio.routes import views as routes
from studio.shelf import views as shelf


class _Choice:
    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


class StepConverter(_Choice):
    """Undo or redo."""

    regex = "undo|redo"


class ChangeConverter(_Choice):
    """Changes that need no drawer."""

    regex = (
        "join|flow|part|name|unname|ban|allow|drop|cut|free|exchange|recolour|figures"
        "|through|place|sew-drawing|sewn|pieced|sew|unsew|behind|front"
    )


class TraceConverter(_Choice):
    """What is done to a tracing."""

    regex = "touch|drop|take|drag|part|join|undo"


register_converter(TraceConverter, "trace")
register_converter(StepConverter, "step")
register_converter(ChangeConverter, "change")

urlpatterns = [
    path("", RedirectView.as_view(url=reverse_lazy("jobs"))),
    path("begin/", begin, name="begin"),
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("jobs/", jobs.job_list, name="jobs"),
    path("jobs/new/", jobs.new_job, name="new-job"),
    path("jobs/new/preview/", jobs.preview_job, name="preview-job"),
    path("jobs/import/", jobs.import_job, name="import-job"),
    path("jobs/consult/", intake.new_consult, name="new-consult"),
    path("find/", book.find, name="find"),
    path("outbox/", post.outbox, name="outbox"),
    path("prices/", quotes.price_list, name="prices"),
    path("calendar/", agenda.calendar, name="calendar"),
    path("calendar.ics", agenda.calendar_ics, name="calendar-ics"),
    path("calendar/off/<int:item_id>/drop/", agenda.drop_day_off, name="drop-day-off"),
    path("blocks/", blocks.block_list, name="blocks"),
    path("blocks/new/", blocks.block, name="block-new"),
    path("blocks/board/", blocks.board_act, name="block-act"),
    path("blocks/round/", blocks.round_look, name="block-round"),
    path("blocks/<int:own_id>/", blocks.block, name="block-item"),
    path("blocks/<int:own_id>/drop/", blocks.drop_block, name="block-drop"),
    path("shelf/", shelf.shelf, name="shelf"),
    path("shelf/<slug:kind>/", shelf.item, name="shelf-new"),
    path("shelf/<slug:kind>/<int:item_id>/", shelf.item, name="shelf-item"),
    path("shelf/<slug:kind>/<int:item_id>/drop/", shelf.drop_item, name="shelf-drop"),
    path("for-you/<str:signed>/", quotes.client, name="client"),
    path("jobs/<uuid:job_id>/", work.work, name="work"),
    path("jobs/<uuid:job_id>/board/", work.panel, name="board"),
    path("jobs/<uuid:job_id>/intake/", intake.intake, name="intake"),
    path("jobs/<uuid:job_id>/intake/look/", intake.look, name="intake-look"),
    path("jobs/<uuid:job_id>/photos/", intake.photos, name="photos"),
    path("jobs/<uuid:job_id>/photos/<uuid:photo_id>.jpg", intake.photo, name="photo"),
    path("jobs/<uuid:job_id>/photos/<uuid:photo_id>/drop/", intake.drop_photo, name="drop-photo"),
    path("jobs/<uuid:job_id>/consult-sheet/", intake.consult_sheet, name="consult-sheet"),
    path(
        "jobs/<uuid:job_id>/consult-sheet.pdf", intake.consult_sheet_pdf, name="consult-sheet-pdf"
    ),
    path("jobs/<uuid:job_id>/chart/", jobs.chart_job, name="chart"),
    path(
        "jobs/<uuid:job_id>/chart/drawing/", from_drawing.chart_from_drawing, name="chart-drawing"
    ),
    path(
        "jobs/<uuid:job_id>/chart/drawing/<int:reading_id>/",
        from_drawing.drawing_state,
        name="drawing-state",
    ),
    path("jobs/<uuid:job_id>/chart/photo/", tracing.choose, name="chart-photo"),
    path("jobs/<uuid:job_id>/chart/photo/<uuid:tracing_id>/", tracing.trace, name="trace"),
    path(
        "jobs/<uuid:job_id>/chart/photo/<uuid:tracing_id>/flat.jpg", tracing.flat, name="trace-flat"
    ),
    path(
        "jobs/<uuid:job_id>/chart/photo/<uuid:tracing_id>/<trace:act>/",
        tracing.change,
        name="trace-change",
    ),
    path("jobs/<uuid:job_id>/book/", book.book, name="book"),
    path("jobs/<uuid:job_id>/thread/", shelf.job_thread, name="job-thread"),
    path("jobs/<uuid:job_id>/quotes/", quotes.quotes, name="quotes"),
    path("jobs/<uuid:job_id>/quotes/<int:number>/", quotes.quote, name="quote"),
    path("jobs/<uuid:job_id>/quotes/<int:number>.pdf", quotes.quote_pdf, name="quote-pdf"),
    path("jobs/<uuid:job_id>/quotes/<int:number>/link/", quotes.make_link, name="make-link"),
    path("jobs/<uuid:job_id>/quotes/<int:number>/revoke/", quotes.revoke_link, name="revoke-link"),
    path("jobs/<uuid:job_id>/archive.json", jobs.export_job, name="export-job"),
    path("jobs/<uuid:job_id>/linework/", work.linework, name="linework"),
    path("jobs/<uuid:job_id>/drawer/", panels.drawer, name="drawer"),
    path("jobs/<uuid:job_id>/cutter/", panels.cutter, name="cutter"),
    path("jobs/<uuid:job_id>/block/", panels.block_panel, name="block-panel"),
    path("jobs/<uuid:job_id>/place/", panels.place_panel, name="place"),
    path("jobs/<uuid:job_id>/place/look/", panels.place_look, name="place-look"),
    path("jobs/<uuid:job_id>/applique/", panels.applique_panel, name="applique"),
    path("jobs/<uuid:job_id>/applique/look/", panels.applique_look, name="applique-look"),
    path("jobs/<uuid:job_id>/preview/", work.preview, name="preview"),
    path("jobs/<uuid:job_id>/keep/", work.keep, name="keep"),
    path("jobs/<uuid:job_id>/<step:which>/", work.step_back, name="step-back"),
    path("jobs/<uuid:job_id>/change/<change:what>/", work.change, name="change"),
    path("jobs/<uuid:job_id>/plan/", routes.plan, name="plan"),
    path("jobs/<uuid:job_id>/plan/leave/", routes.leave, name="plan-leave"),
    path("jobs/<uuid:job_id>/plan/state/", routes.state, name="plan-state"),
    path("jobs/<uuid:job_id>/plan/steps/", routes.steps, name="plan-steps"),
    path("jobs/<uuid:job_id>/run-sheet/", routes.run_sheet, name="run-sheet"),
    path("jobs/<uuid:job_id>/run-sheet.pdf", routes.run_sheet_pdf, name="run-sheet-pdf"),
    path("jobs/<uuid:job_id>/route.json", routes.route_file, {"kind": "json"}, name="route-json"),
    path("jobs/<uuid:job_id>/route.svg", routes.route_file, {"kind": "svg"}, name="route-svg"),
]
