"""Addresses of signing in and out."""

from django.contrib.auth import views as auth
from django.urls import path

from studio.accounts.begin import begin
from studio.accounts.sign_in import SignIn

urlpatterns = [
    path("begin/", begin, name="begin"),
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
]
