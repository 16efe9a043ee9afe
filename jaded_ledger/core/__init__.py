"""The rules of the trade, in pure Python: no Django, nothing of the rest of the project.

Money is ``decimal.Decimal`` dollars, dates are ``datetime.date``, "today" is always a parameter, and a
quantity that cannot be known is ``None``, never 0.
"""
