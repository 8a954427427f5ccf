"""What gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "bluffside.server.settings")
os.environ.setdefault("BLUFFSIDE_QUERY_SECONDS", "20")
os.environ.setdefault("BLUFFSIDE_CONNECTIONS", "6")  # of this process; two of them wait for twelve queries at once
application = get_wsgi_application()
