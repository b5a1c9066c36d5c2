"""What an operation by hand will work on, in words."""

from collections.abc import Callable

from hulmo.core.by_hand.choice import amount, chosen
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Values


def told(domain: str) -> Callable[[Body, Values], str]:
    """What an operation on a domain will work on, in words."""

    def result(body: Body, values: Values) -> str:
        found = amount(body, domain, chosen(body, domain))
        word = {"face": "face", "edge": "edge", "vertex": "vertex"}[domain]
        many = {"face": "faces", "edge": "edges", "vertex": "vertices"}[domain]
        size = {"face": f", {found.size:.4g} m²", "edge": f", {found.size:.4g} m", "vertex": ""}[domain]
        if not found.count:
            return f"No {word} is chosen yet."
        return f"{found.count:,} {word if found.count == 1 else many} chosen{size}."

    return result
