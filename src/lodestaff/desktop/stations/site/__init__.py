"""The Site station: the supply as plates on the wall."""
