"""Django's admin for whoever runs an installation: who works where. Switched on by CHOROGRAPH_ADMIN=1;
nothing of a studio's work is edited there."""

from __future__ import annotations

from django.contrib import admin

from studio.accounts.models import Invitation, Membership, Session, Studio


@admin.register(Studio)
class StudioAdmin(admin.ModelAdmin):
    list_display = ("name", "units", "paper")
    fields = ("name", "units", "paper", "address")


@admin.register(Membership)
class MembershipAdmin(admin.ModelAdmin):
    list_display = ("person", "studio", "role")
    list_select_related = ("person", "studio")


@admin.register(Invitation)
class InvitationAdmin(admin.ModelAdmin):
    list_display = ("studio", "role", "email", "made", "expires", "used")
    readonly_fields = ("key", "made", "used")


@admin.register(Session)
class SessionAdmin(admin.ModelAdmin):
    list_display = ("person", "agent", "made", "seen", "expire_date")
    fields = readonly_fields = ("person", "agent", "made", "seen", "expire_date")
