"""Steps that several paths begin with."""


def read(locator):
    """What a person reads there, white space drawn together, be it breakable or not."""
    return " ".join(locator.inner_text().split())


def take_new_lens_in_hand(page, **fields):
    """Make a lens in its form, by field name, and a set-up of it with the body offered."""
    page.goto("/kit/lenses/new")
    for name, text in fields.items():
        page.locator(f"#f-{name}").fill(text)
    page.get_by_role("button", name="Save").click()
    page.wait_for_url("**/kit?done=*")
    page.goto("/kit/setups/new")
    page.get_by_label("Lens", exact=True).select_option(label=fields["name"])
    page.get_by_role("button", name="Save and select").click()
    page.wait_for_url("**done=*")
