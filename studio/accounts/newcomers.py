"""Who has no name here yet takes one."""

from __future__ import annotations

from django import forms
from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError


class NewcomerForm(forms.Form):
    """A name that nobody else has, and a password."""

    username = forms.CharField(max_length=150, label="Your name for signing in")
    first_name = forms.CharField(max_length=60, label="What others see", required=False)
    email = forms.EmailField(label="Mail address, should you forget the password", required=False)
    password = forms.CharField(label="Password", widget=forms.PasswordInput)

    def clean_username(self) -> str:
        """A name that a sign-in can have, and nobody else has."""
        name = self.cleaned_data["username"]
        get_user_model().username_validator(name)
        if get_user_model().objects.filter(username__iexact=name).exists():
            raise ValidationError("Somebody has that name already.")
        return name

    def clean(self) -> dict:
        """A password long enough, not one that everybody uses, and not like the name."""
        values = super().clean() or self.cleaned_data
        about = {name: values.get(name, "") for name in ("username", "email", "first_name")}
        if values.get("password"):
            try:
                validate_password(values["password"], get_user_model()(**about))
            except ValidationError as error:
                self.add_error("password", error)
        return values

    def save(self):
        """The person."""
        values = self.cleaned_data
        return get_user_model().objects.create_user(
            values["username"], values["email"], values["password"], first_name=values["first_name"]
        )
