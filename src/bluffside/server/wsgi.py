"""What gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "bluffside.server.settings")
os.environ.setdefault("BLUFFSIDE_QUERY_SECONDS", "20")
application = get_wsgi_application()
