"""Only the migrations of outreach, from before it was contacts and mailings: databases of then are brought up to date through them."""
