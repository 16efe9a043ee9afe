"""Who owns: names as recorded, kinds of owner, occupancy."""
