"""Body sight: which bodies are seen, faded or let see through. A choice of the one who looks; the job does not change."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

SEEN_THROUGH = 0.34
"""How much is left of what is seen through."""
Key = tuple[int, int]
"""(id of the placed part, number of the copy in it)."""


@dataclass(frozen=True, slots=True)
class Visibility:
    """hidden : not drawn
    only : if not None, all others are faded to `fade` (0 hides them)
    clear : let see through
    inside : if not None, what is in the file or assembly that is gone into, and nothing else is drawn
    place : its name
    centre, distances, within : bodies farther than `within` mm from the chosen one are peeled away; distances of those measured
    """

    hidden: frozenset[Key] = frozenset()
    only: frozenset[Key] | None = None
    fade: float = 0.15
    clear: frozenset[Key] = frozenset()
    centre: Key | None = None
    distances: dict[Key, float] = field(default_factory=dict)
    within: float = float("inf")
    inside: frozenset[Key] | None = None
    place: str = ""

    def opacity(self, key: Key) -> float:
        """0 for what is not drawn, 1 for what is solid."""
        if key in self.hidden or (self.inside is not None and key not in self.inside):
            return 0.0
        if self.centre is not None and key != self.centre and self.distances.get(key, 0.0) > self.within:
            return 0.0
        if self.only is not None and key not in self.only:
            return self.fade if self.fade >= 0.02 else 0.0
        return SEEN_THROUGH if key in self.clear else 1.0

    def hiding(self, keys: frozenset[Key]) -> Visibility:
        """With these hidden too."""
        return replace(self, hidden=self.hidden | keys)

    def showing(self, keys: frozenset[Key]) -> Visibility:
        """Seen again, whatever hid them."""
        only = None if self.only is None else self.only | keys
        distances = {key: 0.0 if key in keys else far for key, far in self.distances.items()}
        return replace(self, hidden=self.hidden - keys, only=only, distances=distances)

    def seeing_only(self, keys: frozenset[Key] | None) -> Visibility:
        """keys : None ends it. What is kept is no longer hidden."""
        return replace(self, only=keys, hidden=self.hidden - (keys or frozenset()))

    def faded(self, share: float) -> Visibility:
        """share : 0 to 1, how much is left of the others"""
        return replace(self, fade=min(max(share, 0.0), 1.0))

    def seen_through(self, keys: frozenset[Key]) -> Visibility:
        """Lets see through these, or ends that where all of them do already."""
        return replace(self, clear=self.clear - keys if keys <= self.clear else self.clear | keys)

    def around(self, centre: Key | None, distances: dict[Key, float]) -> Visibility:
        """Ready to peel; nothing is peeled yet. centre : None ends it."""
        return replace(self, centre=centre, distances=distances, within=float("inf"))

    def measured(self, centre: Key, distances: dict[Key, float]) -> Visibility:
        """With distances that are exact; what is peeled away meanwhile stays so."""
        return replace(self, centre=centre, distances=distances)

    def peeled(self, within: float) -> Visibility:
        """within : mm from the chosen one, beyond which bodies are not drawn"""
        return replace(self, within=within)

    def gone_into(self, inside: frozenset[Key] | None, place: str) -> Visibility:
        """Only what is in a file or assembly, None for all; what is hidden or faded in it stays so."""
        return replace(self, inside=inside, place=place)

    def everything(self) -> Visibility:
        """All seen and solid; how far `only` fades is remembered."""
        return Visibility(fade=self.fade)
