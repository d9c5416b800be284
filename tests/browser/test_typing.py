"""Handwritten notes typed in without a mouse."""

from playwright.sync_api import expect


def test_a_roll_is_typed_in_by_the_keyboard_alone(open_page, site):
    page = open_page(site, "/log/type")
    expect(page.locator("#lines")).to_be_focused()
    page.keyboard.type("50/8 z:far ok\nb\n2.4m f5.6 1/125; by the slip")
    echo = page.locator(".echo li")
    expect(echo).to_have_count(3)
    expect(echo.nth(2)).to_contain_text("2.10 m to 2.81 m")
    tops = page.evaluate("""() => {
      const lines = document.querySelector('#lines'); const style = getComputedStyle(lines);
      const first = lines.getBoundingClientRect().top + parseFloat(style.borderTopWidth) + parseFloat(style.paddingTop);
      return [...document.querySelectorAll('.echo li')].map((li, i) =>
        li.getBoundingClientRect().top - first - i * parseFloat(style.lineHeight)); }""")
    assert max(map(abs, tops)) < 6  # each echo stands beside its line
    page.keyboard.press("Control+Enter")
    page.wait_for_url("**/log?outing=*")
    expect(page.get_by_role("status").last).to_contain_text("Typed in 3 frames")
