"""Only the migrations of deals, from before they were comps and worksheets: databases of then are brought up to date through them."""
