"""A year at fifteen minutes, and outages: weather, array, loads, dispatch, tariff."""
