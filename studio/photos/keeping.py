"""Photographs of a job: keep them, find them, take them out."""

from __future__ import annotations

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import Storage, default_storage
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.photos.models import ABOUT, Photo
from studio.photos.pictures import PictureError, take_in
from studio.plain import plain

MOST = 60
"""Photographs one job may have."""


def storage() -> Storage:
    """Where photographs are kept: a folder readable by its owner alone, or a service that several machines
    share."""
    return default_storage


def _name(photo: Photo, small: bool) -> str:
    """Where a photograph lies: named by numbers of ours alone."""
    return f"{photo.job.studio_id}/{photo.job_id}/{photo.pk}{'-small' if small else ''}.jpg"


def names_of(photo: Photo) -> list[str]:
    """The files of a photograph."""
    return [_name(photo, small) for small in (False, True)]


def keep_photo(job: Job, author, file: UploadedFile, about: str, note: str) -> Photo:
    """Keep *file* as a photograph of *job*. Raises `PictureError` with a sentence."""
    if file.size > settings.LARGEST_PHOTO:
        raise PictureError(
            f"The file has {file.size / 1e6:.0f} MB; a photograph may have "
            f"{settings.LARGEST_PHOTO / 1e6:.0f}."
        )
    if about not in dict(ABOUT):
        raise PictureError("Say what the photograph shows.")
    if job.photos.count() >= MOST:
        raise PictureError(f"{MOST} photographs are enough for one top; take one out first.")
    picture = take_in(file.read())
    with transaction.atomic():
        photo = Photo.objects.create(
            job=job, about=about, note=plain(note, 300), width=picture.width,
            height=picture.height, author=author,
        )  # fmt: skip
        record(job, "photo", str(photo), author)
        storage().save(_name(photo, False), ContentFile(picture.data))
        storage().save(_name(photo, True), ContentFile(picture.small))
    return photo


def name_of(photo: Photo, small: bool = False) -> str:
    """Under which name a photograph is kept."""
    return _name(photo, small)


def kept(name: str) -> bytes:
    """What is kept under a *name*. Raises FileNotFoundError."""
    with storage().open(name) as file:
        return file.read()


def take_out(photo: Photo, author) -> None:
    """Delete a photograph and its files; the book keeps that it was there."""
    names = names_of(photo)
    with transaction.atomic():
        record(photo.job, "photo", f"Took out a photograph. {photo}", author)
        photo.delete()
    for name in names:
        storage().delete(name)
