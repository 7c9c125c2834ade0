"""WSGI entry point."""

import os
from threading import Thread

from django.core.wsgi import get_wsgi_application

from calmsquare.memory import settle
from truing.surfacing.warm import warm

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmsquare.settings")
application = get_wsgi_application()

settle()

# a first plan would wait for what is compiled to be loaded
Thread(target=warm, daemon=True).start()
