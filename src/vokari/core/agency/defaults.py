"""What holds for a client as long as nobody chose otherwise."""

REST_DAYS = 90
"""How long a number rests before it is released, in days."""
SAME_AREA = True
"""Whether several numbers taken together share an area code."""
LIKENESS = "unlike"
"""How several numbers are chosen (see `numbers.choosing`)."""
