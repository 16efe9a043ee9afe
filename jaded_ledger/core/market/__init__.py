"""What is offered and what the market pays: listings, days on the market, areas, land."""
