"""Worksheets: from a property's record and a team's assumptions to figures, kept, printed and screened in bulk."""
