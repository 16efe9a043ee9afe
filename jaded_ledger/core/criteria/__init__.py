"""What can be asked of a parcel: traits, criteria, and their text form."""
