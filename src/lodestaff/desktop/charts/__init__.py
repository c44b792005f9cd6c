"""What all charts share: axes with units, a reading under hand or keys, a closer look, copies."""

from lodestaff.desktop.charts.chart import Chart
from lodestaff.desktop.charts.hand import ChartHand
from lodestaff.desktop.charts.mark import Charted, Mark, Value, table_of

__all__ = ["Chart", "ChartHand", "Charted", "Mark", "Value", "table_of"]
