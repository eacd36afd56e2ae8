"""The route in her hands: where the work stands, schools priced, reasons, what would help."""
