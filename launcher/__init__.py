"""Starts and stops what Chorograph runs on: its own PostgreSQL, the web server, the worker."""
