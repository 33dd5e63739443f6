"""Keeping what was worked out last, where some of it is only for the time being."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

_In = ParamSpec("_In")
_Out = TypeVar("_Out")


def recent(most: int, passing: Callable[..., bool]) -> Callable[[Callable[_In, _Out]], Callable[_In, _Out]]:
    """Keep the last `most` outcomes of a function by its arguments, which must be hashable.

    What `passing` holds of is for the time being: it goes as soon as
    anything comes that stays. So the skeleton of a large building does not
    lie beside the building itself, which is a third of the web process.
    """

    def keep(work: Callable[_In, _Out]) -> Callable[_In, _Out]:
        kept: OrderedDict[tuple[Any, ...], _Out] = OrderedDict()
        lock = threading.Lock()

        @wraps(work)
        def ask(*args: _In.args, **kwargs: _In.kwargs) -> _Out:
            if kwargs:
                raise TypeError("what is kept is known by the order of its arguments")
            with lock:
                if args in kept:
                    kept.move_to_end(args)
                    return kept[args]
            made = work(*args, **kwargs)
            with lock:
                if not passing(*args):
                    for other in [key for key in kept if passing(*key)]:
                        del kept[other]
                kept[args] = made
                while len(kept) > most:
                    kept.popitem(last=False)
            return made

        ask.forget = lambda *args: kept.pop(args, None)  # type: ignore[attr-defined]
        return ask

    return keep
