"""What the finder's scenes are called; kept apart so that naming them does not load OpenCV."""

SCENE_NAMES = {
    "shed": "the shed before dawn", "plank": "the name board", "sitter": "Ida on the bench",
    "quay": "launch day on the quay", "boat": "a boat at the jetty", "stars": "night over the lake",
    "deck": "the rails of the Teal", "figurehead": "the figurehead of the Teal",
    "pebbles": "wet pebbles", "reeds": "a damselfly in the reeds", "rigging": "rigging against the sky",
    "bench": "brass and glass on the bench", "shore": "the grassy shore", "dusk": "the slip at dusk",
}  # fmt: skip
