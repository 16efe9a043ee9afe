"""Who has owned a property: which transfers are sales, since when the present owner holds it, whether it has passed on since."""
