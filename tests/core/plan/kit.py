"""The set-ups of the demo, for plans over real kit."""

from welotrope.core.kit.setup import Setup
from welotrope.demo import skarnmere


def setup(index):
    body, lens, standard, adapter = skarnmere.SETUPS[index]
    return Setup(
        body=skarnmere.BODIES[body],
        lens=skarnmere.LENSES[lens],
        standard=standard,
        adapter=skarnmere.ADAPTERS[adapter] if adapter else None,
    )


ALL = tuple(range(len(skarnmere.SETUPS)))
