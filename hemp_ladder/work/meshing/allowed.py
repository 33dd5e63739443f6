"""What following chains may take."""

from collections.abc import Sequence

from hemp_ladder.core.chain.making import Order

#: What chains may take of processor time: so many seconds, and so many times what they are thought to take.
_LEAST_SECONDS, _PATIENCE = 60.0, 60.0


def allowed_seconds(orders: Sequence[Order]) -> float:
    """Seconds of processor for following chains: far beyond what they are thought to take."""
    return _LEAST_SECONDS + _PATIENCE * sum(order.chain.seconds() for order in orders)
