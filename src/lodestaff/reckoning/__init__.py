"""Every figure of a job: pure, cached by what it rests on."""

from typing import TYPE_CHECKING

from lodestaff.quantities.lazily import lazily

if TYPE_CHECKING:
    from lodestaff.reckoning.moment import Moment, Sky
    from lodestaff.reckoning.reckoner import Reckoner

__all__ = ["Moment", "Reckoner", "Sky"]

__getattr__ = lazily(__name__, {"Moment": "moment", "Sky": "moment", "Reckoner": "reckoner"})
