"""How the web server runs; the address and process file come from setup/serve.py."""

import contextlib

workers = 2
threads = 4
worker_class = "gthread"
graceful_timeout = 5
accesslog = None
loglevel = "warning"


def when_ready(server):
    """Say where to go once the address really answers."""
    import django

    django.setup()
    from django.db import OperationalError

    from jaded_ledger.demo.people import sign_in_hint

    address = server.address[0]
    print(f"\n  Jaded Ledger is at http://{address[0]}:{address[1]}/")
    # Started again after something was killed, it may be there before the database is.
    with contextlib.suppress(OperationalError):
        print(f"  {sign_in_hint()}")
    print("  Ctrl-C stops it.\n", flush=True)
