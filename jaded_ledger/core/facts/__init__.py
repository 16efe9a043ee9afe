"""The searchable facts of one parcel: what is on record of it, what follows, and how each figure came about."""
