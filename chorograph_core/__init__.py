"""The computation behind Chorograph: measuring, charting, zones, designs, reckoning and routes.

Nothing in here knows about web pages or databases. Rooms point one way:
measure <- chart <- zones <- designs <- reckon <- route <- formats.
"""

__version__ = "0.1.0"
