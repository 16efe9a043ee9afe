"""How static files are served: compressed, under names that change with what is in them."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedStaticFiles(CompressedManifestStaticFilesStorage):
    """Also what a script imports is named so; a browser would go on with an older one otherwise."""

    support_js_module_import_aggregation = True
