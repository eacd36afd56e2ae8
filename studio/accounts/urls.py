"""Addresses of signing in and out, of people and of oneself."""

from django.conf import settings
from django.contrib.auth import views as auth
from django.urls import path, reverse_lazy

from studio.accounts import codes_views, people_views
from studio.accounts.access import in_her_language
from studio.accounts.begin import begin
from studio.accounts.letters import ForgottenForm
from studio.accounts.sign_in import SignIn, locked

urlpatterns = [
    path("begin/", begin, name="begin"),
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-in/later/", locked, name="sign-in-later"),
    path("sign-in/code/", codes_views.give_code, name="sign-in-code"),
    path("you/codes/", codes_views.second_step, name="codes"),
    path("you/codes/change/", codes_views.change_codes, name="codes-change"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("password/", in_her_language(auth.PasswordChangeView.as_view(
        template_name="accounts/password.html", success_url=reverse_lazy("yourself"))),
        name="password"),
    path("password/forgotten/", auth.PasswordResetView.as_view(
        template_name="accounts/forgotten.html", email_template_name="accounts/forgotten.txt",
        subject_template_name="accounts/forgotten_subject.txt",
        form_class=ForgottenForm, extra_email_context={"address": settings.PUBLIC_ADDRESS},
        success_url=reverse_lazy("password-sent")), name="password-forgotten"),
    path("password/sent/", auth.PasswordResetDoneView.as_view(
        template_name="accounts/forgotten_sent.html"), name="password-sent"),
    path("password/new/<uidb64>/<token>/", auth.PasswordResetConfirmView.as_view(
        template_name="accounts/password_new.html", success_url=reverse_lazy("sign-in")),
        name="password-new"),
    path("you/", people_views.yourself, name="yourself"),
    path("you/sessions/", people_views.end_sessions, name="end-sessions"),
    path("you/leave/", people_views.leave, name="leave-studio"),
    path("you/studio/", people_views.choose_studio, name="choose-studio"),
    path("studio/people/", people_views.people, name="people"),
    path("studio/people/<int:member_id>/role/", people_views.member_role, name="member-role"),
    path("studio/people/<int:member_id>/out/", people_views.member_out, name="member-out"),
    path("studio/invitations/<int:invitation_id>/back/", people_views.invitation_back,
         name="invitation-back"),
    path("join/<str:signed>/", people_views.join_studio, name="join"),
]  # fmt: skip
