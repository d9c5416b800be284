"""A request to judge aids: what is left out of it counts as it should."""

from welotrope.interchange import aids_request

SPLIT = {"kind": "split_image", "finder_magnification": 0.9, "deviation_deg": 6.5}
ASKED = {"focal_mm": 50, "stop": 8, "focus_mm": 2000, "blur_mm": 0.03, "lead_mm": 10.8, "aids": [SPLIT]}


def judged(**change):
    (found,) = aids_request.answer(aids_request.AidsRequest.model_validate(ASKED | change)).aids
    return found


def test_no_focus_distance_is_infinity_where_an_error_has_no_length():
    assert judged(focus_mm=None).error_subject_mm is None
    far, near = (judged(focus_mm=mm, stop=2).error_subject_mm for mm in (3_000, 2_000))
    assert far > near > 0
    aided = {"kind": "magnified", "display_px": 1280, "step": 12, "pitch_mm": 0.004, "sensor_px": 6000}
    at = {mm: judged(focus_mm=mm, stop=1.4, aids=[aided]).error_subject_mm for mm in (10_000, None)}
    assert at[10_000] > 0
    assert at[None] is None


def test_prisms_that_black_out_send_one_to_the_widest_stop_that_was_named():
    said = " ".join(judged(stop=2, view_stop=16).reasons)
    assert "f/2, then stop down" in said
    assert "then stop down" not in " ".join(judged(stop=16, view_stop=16).reasons)
