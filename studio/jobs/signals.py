"""What other rooms may listen to, so that jobs need not know them."""

from django.dispatch import Signal

job_changed = Signal()
"""A revision was appended. Sent inside its transaction, with *job*, *core*, *revision*, *summary*
and *author*; what a receiver raises takes the change back."""
