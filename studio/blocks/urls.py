"""Addresses of the own blocks."""

from django.urls import path

from studio.blocks import views

urlpatterns = [
    path("blocks/", views.block_list, name="blocks"),
    path("blocks/new/", views.block, name="block-new"),
    path("blocks/board/", views.board_act, name="block-act"),
    path("blocks/round/", views.round_look, name="block-round"),
    path("blocks/<int:own_id>/", views.block, name="block-item"),
    path("blocks/<int:own_id>/drop/", views.drop_block, name="block-drop"),
]
