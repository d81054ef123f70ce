"""People, for administrators: invited, signed in with a chosen password, removed; one's own password."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import SignInAs

GOOD = "marsh harrier over reeds"


def act(page: Page, name: str, what: str) -> None:
    """Do something about somebody, through their menu."""
    page.get_by_role("button", name=f"What to do about {name}").click()
    page.get_by_role("menuitem", name=what).click()


def test_somebody_is_invited_chooses_a_password_and_is_removed(
    sign_in_as: SignInAs, browser: Browser, address: str
) -> None:
    oda = sign_in_as("Oda Fennimore", "/people")
    oda.get_by_role("button", name="Invite somebody").click()
    oda.get_by_label("Name", exact=True).fill("Wim Osler")
    oda.get_by_label("User name").fill("wim")
    oda.get_by_label("District").fill("Saltings")
    oda.get_by_role("button", name="Invite", exact=True).click()
    expect(oda.get_by_text("It works once")).to_be_visible()
    link = oda.get_by_text(re.compile("/invitation/")).inner_text()

    wim = browser.new_context(base_url=address).new_page()
    wim.goto(link)
    wim.get_by_label("Password", exact=True).fill("password12")
    wim.get_by_label("The same again").fill("password12")
    wim.get_by_role("button", name="Keep this password").click()
    expect(wim.get_by_role("alert")).to_contain_text("easy to guess")
    wim.get_by_label("Password", exact=True).fill(GOOD)
    wim.get_by_label("The same again").fill(GOOD)
    wim.get_by_role("button", name="Keep this password").click()
    wim.get_by_label("User name").fill("wim")
    wim.get_by_label("Password", exact=True).fill("not this one")
    wim.get_by_role("button", name="Sign in").click()
    expect(wim.get_by_role("alert")).to_contain_text("do not go together")
    wim.get_by_label("Password", exact=True).fill(GOOD)
    wim.get_by_role("button", name="Sign in").click()
    expect(wim.get_by_role("heading", name="Your orders")).to_be_visible()
    expect(wim.get_by_text("1 attempt with a wrong password since you signed in last")).to_be_visible()

    oda.get_by_role("button", name="Done").click()
    oda.reload()
    act(oda, "Wim Osler", "Remove")
    oda.get_by_role("button", name="Remove", exact=True).click()
    expect(oda.get_by_text(re.compile("^removed ")).first).to_be_visible()
    wim.reload()
    expect(wim.get_by_role("button", name="Sign in")).to_be_visible()
    expect(oda.get_by_role("table").last).to_contain_text("removed wim")
    wim.context.close()


def test_ones_own_password_is_changed_and_the_page_is_for_administrators(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/people")
    expect(ines.get_by_text("There is nothing at this address")).to_be_visible()
    ines.goto("/password")
    ines.get_by_label("The one you have").fill("reed-bed")
    ines.get_by_label("The one you want").fill(GOOD)
    ines.get_by_label("The same again").fill(GOOD)
    ines.get_by_role("button", name="Change it").click()
    expect(ines.get_by_role("status").filter(has_text="It is changed")).to_be_visible()


def test_after_signing_out_the_page_asks_who_comes_and_nobody_is_asked_to_go_on(
    sign_in_as: SignInAs, browser: Browser, address: str
) -> None:
    """Answers that come late do not bring the page of the one who left back; nor does a used invitation."""
    ines = sign_in_as("Ines Varga", "/match/lists/parts")
    ines.get_by_role("button", name=re.compile("^IV:")).click()
    ines.get_by_role("menuitem", name="Sign out").click()
    expect(ines.get_by_role("heading", name="Try the demo as")).to_be_visible()
    ines.wait_for_timeout(1_000)
    expect(ines.get_by_role("dialog")).to_have_count(0)
    expect(ines.get_by_role("heading", name="Try the demo as")).to_be_visible()
    ines.goto("/invitation/used-long-ago")
    expect(ines.get_by_role("alert")).to_contain_text("This invitation was used, or it has run out.")
    ines.goto("/")
    ines.get_by_role("button", name="Oda Fennimore").click()
    expect(ines.locator(".band")).to_be_visible()
    ines.wait_for_timeout(500)
    expect(ines.get_by_role("dialog")).to_have_count(0)


def test_a_program_gets_a_token_that_works_until_it_is_revoked(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Oda Fennimore", "/people")
    programs = page.get_by_role("region", name="Programs")
    expect(programs.get_by_text("No program has a token.")).to_be_visible()
    programs.get_by_label("Name of the program").fill("Asset register")
    programs.get_by_role("combobox", name="Role of the program").click()
    page.get_by_role("option", name="planner").click()
    programs.get_by_role("button", name="Make a token").click()
    token = programs.locator("code").inner_text()

    def asked() -> int:
        bare = page.context.browser
        assert bare is not None
        other = bare.new_context(
            base_url=page.url.split("/people")[0], extra_http_headers={"Authorization": f"Bearer {token}"}
        )
        status = other.request.get("/api/v1/orders").status
        other.close()
        return status

    assert asked() == 200
    page.reload()
    expect(programs.get_by_role("cell", name="Asset register")).to_be_visible()
    expect(page.get_by_text(token)).to_have_count(0)
    programs.get_by_role("button", name="Revoke").click()
    page.get_by_role("dialog").get_by_role("button", name="Revoke").click()
    expect(programs.get_by_text("No program has a token.")).to_be_visible()
    assert asked() == 401
