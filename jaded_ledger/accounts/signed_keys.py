"""Keys in addresses that are read without signing in: signed, so that nobody can make one up."""

from __future__ import annotations

from django.core.signing import BadSignature, Signer


class SignedKeys:
    """Keys of one kind: a key of another kind is none of these."""

    def __init__(self, kind: str) -> None:
        self._signer = Signer(salt=kind)

    def key_of(self, value: str) -> str:
        """Return the key of a value that has no colon, as it stands in an address."""
        return self._signer.sign(value).replace(":", "-")

    def value_of(self, key: str) -> str | None:
        """Return the value of a key; None for one that is made up or of another kind."""
        try:
            return self._signer.unsign(key.replace("-", ":", 1))
        except BadSignature:
            return None
