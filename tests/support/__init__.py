"""What tests share: cases to stand on, records to put together, and ways to read what comes back."""
