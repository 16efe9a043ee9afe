"""What to pay for a property: worksheets with their exits, the prices that work, what the seller keeps, and who must sign."""
