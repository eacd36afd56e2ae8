"""What other rooms may listen to, so that accounts need not know them."""

from django.dispatch import Signal

studio_made = Signal()
"""A studio was made. Sent inside its transaction, with *studio*."""
