"""The Array station: faces to scale and the ladder of volts."""
