"""What the finder's aids and scenes are called; kept apart so that naming them does not load OpenCV."""

AID_NAMES = {
    "matte": "Matte screen", "split_image": "Split image", "diagonal": "Split image, diagonal",
    "microprism": "Microprism", "collar": "Split image with collar", "rangefinder": "Rangefinder patch",
    "magnified": "Live view, magnified", "peaking": "Peaking", "confirmation": "Focus indicator",
}  # fmt: skip
SCENE_NAMES = {
    "shed": "the shed before dawn", "plank": "the name board", "sitter": "Ida on the bench",
    "quay": "launch day on the quay", "boat": "a boat at the jetty", "stars": "night over the lake",
    "deck": "the rails of the Teal",
}  # fmt: skip
