"""All addresses. Those under jobs/ answer only for the signed-in person's studio."""

from django.contrib.auth import views as auth
from django.urls import path, register_converter, reverse_lazy
from django.views.generic import RedirectView

from studio.jobs import views as jobs
from studio.jobs import work
from studio.routes import views as routes


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

    regex = "join|flow|part|ban|allow|drop"


register_converter(StepConverter, "step")
register_converter(ChangeConverter, "change")

urlpatterns = [
    path("", RedirectView.as_view(url=reverse_lazy("jobs"))),
    path("sign-in/", auth.LoginView.as_view(template_name="accounts/sign_in.html"), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("jobs/", jobs.job_list, name="jobs"),
    path("jobs/new/", jobs.new_job, name="new-job"),
    path("jobs/new/preview/", jobs.preview_job, name="preview-job"),
    path("jobs/import/", jobs.import_job, name="import-job"),
    path("jobs/<uuid:job_id>/", work.work, name="work"),
    path("jobs/<uuid:job_id>/board/", work.panel, name="board"),
    path("jobs/<uuid:job_id>/archive.json", jobs.export_job, name="export-job"),
    path("jobs/<uuid:job_id>/linework/", work.linework, name="linework"),
    path("jobs/<uuid:job_id>/drawer/", work.drawer, name="drawer"),
    path("jobs/<uuid:job_id>/preview/", work.preview, name="preview"),
    path("jobs/<uuid:job_id>/keep/", work.keep, name="keep"),
    path("jobs/<uuid:job_id>/<step:which>/", work.step_back, name="step-back"),
    path("jobs/<uuid:job_id>/change/<change:what>/", work.change, name="change"),
    path("jobs/<uuid:job_id>/plan/", routes.plan, name="plan"),
    path("jobs/<uuid:job_id>/plan/state/", routes.state, name="plan-state"),
    path("jobs/<uuid:job_id>/plan/steps/", routes.steps, name="plan-steps"),
    path("jobs/<uuid:job_id>/run-sheet/", routes.run_sheet, name="run-sheet"),
    path("jobs/<uuid:job_id>/run-sheet.pdf", routes.run_sheet_pdf, name="run-sheet-pdf"),
    path("jobs/<uuid:job_id>/route.json", routes.route_file, {"kind": "json"}, name="route-json"),
    path("jobs/<uuid:job_id>/route.svg", routes.route_file, {"kind": "svg"}, name="route-svg"),
]
