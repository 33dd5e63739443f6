"""Decisions: everything a person settled for a job, one immutable document."""

from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.facet.settings import FacetSettings
from hemp_ladder.core.fit.settings import FitSettings
from hemp_ladder.core.mend.settings import MendSettings
from hemp_ladder.core.settings import Settings
from hemp_ladder.core.ship.settings import ShipSettings
from hemp_ladder.core.sort.settings import SortSettings
from hemp_ladder.core.trim.settings import TrimSettings


class Decisions(Settings):
    """One section a rung, in the order of the climb."""

    receive: ReceiveSettings = ReceiveSettings()
    fit: FitSettings = FitSettings()
    facet: FacetSettings = FacetSettings()
    sort: SortSettings = SortSettings()
    mend: MendSettings = MendSettings()
    trim: TrimSettings = TrimSettings()
    ship: ShipSettings = ShipSettings()
