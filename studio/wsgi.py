"""The WSGI application that gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
application = get_wsgi_application()
