from django.apps import AppConfig


class BookingsConfig(AppConfig):
    """Thread reserved for a job and booked out."""

    name = "studio.bookings"
    label = "bookings"
