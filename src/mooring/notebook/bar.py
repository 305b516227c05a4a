"""How far long work has come, in a notebook's cell."""

from __future__ import annotations

import time
from typing import Any

_PATIENCE = 0.5
"""What is done sooner has no bar [s]."""
_APART = 0.1
"""Between two changes of a bar [s]."""


class _Bar:
    """The bar of the work at hand; it goes when that is done."""

    def __init__(self) -> None:
        self.began = self.drawn = 0.0
        self.reached = self.total = 0.0
        self.handle: Any = None

    def advance(self, done: float, total: float) -> None:
        from IPython.display import HTML, display

        now = time.monotonic()
        if total != self.total or done < self.reached:
            self.close()
            self.began = now
        self.reached, self.total = done, total
        if done >= total:
            self.close()
        elif self.handle is None and now - self.began > _PATIENCE:
            self.handle = display(HTML(_said(done, total)), display_id=True)
            self.drawn = now
        elif self.handle is not None and now - self.drawn > _APART:
            self.handle.update(HTML(_said(done, total)))
            self.drawn = now

    def close(self) -> None:
        """Take it away."""
        if self.handle is not None:
            from IPython.display import HTML

            self.handle.update(HTML(""))
        self.handle = None


_bar = _Bar()


def advance(done: float, total: float) -> None:
    """Show how much is done, and of how much, where the work takes long enough to wait for."""
    _bar.advance(done, total)


def _said(done: float, total: float) -> str:
    share = min(max(done / total, 0.0), 1.0) if total else 0.0
    return f'<progress value="{share:.3f}" style="width: 320px"></progress> {100 * share:.0f}%'
