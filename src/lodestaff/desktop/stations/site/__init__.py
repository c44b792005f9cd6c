"""The Site station: the supply as it hangs on the wall."""
