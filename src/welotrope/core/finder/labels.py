"""What the finder's scenes are called; kept apart so that naming them does not load OpenCV."""

SCENE_NAMES = {
    "shed": "the shed before dawn", "plank": "the name board", "sitter": "Ida on the bench",
    "quay": "launch day on the quay", "boat": "a boat at the jetty", "stars": "night over the lake",
    "deck": "the rails of the Teal",
}  # fmt: skip
