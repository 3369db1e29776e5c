"""Walks over the shelf: searched, tagged, several at once, taken off and put back, taken out and brought back."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.walks.conftest import Server, serving
from tests.walks.test_walk import bring, set_number, step, wait_ready


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    with serving(tmp_path_factory.mktemp("shelf")) as server:
        yield server


def card(page: Page, name: str) -> Locator:
    return page.get_by_role("link", name=re.compile(f"^Open {re.escape(name)} "))


def test_an_empty_shelf_has_something_to_try(page: Page) -> None:
    page.get_by_role("button", name="A lighthouse").click()
    wait_ready(page)
    page.get_by_role("link", name="Back to the shelf").click()
    expect(page.get_by_text("142.3 × 206.2 mm").or_(page.get_by_text("6 layers")).first).to_be_visible(timeout=20_000)
    expect(page.get_by_role("button", name="A lighthouse")).to_have_count(0)


def test_a_job_is_found_among_two_hundred_and_several_are_tagged(page: Page) -> None:
    expect(card(page, "lighthouse")).to_be_visible()
    made = page.evaluate("""async () => {
        const { jobs } = await (await fetch("/api/jobs")).json();
        const copies = [];
        for (let i = 0; i < 200; i++) {
            const body = JSON.stringify({ job: jobs[0].id, name: `Buoy ${i}` });
            const headers = { "Content-Type": "application/json" };
            copies.push(await (await fetch("/api/shelf/copies", { method: "POST", headers, body })).json());
        }
        return copies.length;
    }""")
    assert made == 200
    page.reload()
    search = page.get_by_label("Name, tag or size")
    search.fill("buoy 137")
    expect(page.locator("li.card")).to_have_count(1)
    page.get_by_role("checkbox", name="Pick Buoy 137").check()
    search_for = page.get_by_text("1 picked")
    expect(search_for).to_be_visible()
    page.get_by_role("textbox", name="Add a tag").fill("open day")
    page.get_by_role("button", name="Add a tag").click()
    page.get_by_role("button", name="Let go").click()
    search.fill("open DAY")
    expect(card(page, "Buoy 137")).to_be_visible()
    expect(page.locator("li.card")).to_have_count(1)
    search.fill("nowhere to be found")
    expect(page.get_by_text("Nothing on the shelf is found by")).to_be_visible()
    search.fill("")
    expect(page.get_by_role("button", name="Show 1 more")).to_be_visible()


def test_what_is_taken_off_is_put_back_or_deleted_for_good(page: Page) -> None:
    page.get_by_label("Name, tag or size").fill("Buoy 55")
    page.get_by_role("button", name="Take Buoy 55 off the shelf").click()
    expect(page.get_by_text("“Buoy 55” is off the shelf.")).to_be_visible()
    expect(card(page, "Buoy 55")).to_have_count(0)
    page.get_by_role("button", name="Put back").first.click()
    expect(card(page, "Buoy 55")).to_be_visible()
    page.get_by_role("button", name="Take Buoy 55 off the shelf").click()
    page.get_by_text("Taken off", exact=True).click()
    page.get_by_role("button", name="Delete for good").first.click()
    page.get_by_role("dialog").get_by_role("button", name="Delete it").click()
    expect(page.get_by_text("Taken off", exact=True)).to_have_count(0)


def test_a_job_is_taken_out_the_shelf_goes_and_it_comes_back_the_same(page: Page, pictures: Path, tmp_path: Path) -> None:
    bring(page, pictures / "lunch-crate.png")
    wait_ready(page)
    step(page, "Layers")
    job = int(page.url.rsplit("/", 1)[1])
    before = page.evaluate("async (id) => await (await fetch(`/api/jobs/${id}/files/svg`)).text()", job)
    page.get_by_role("link", name="Back to the shelf").click()
    page.get_by_role("button", name="More about lunch crate").click()
    with page.expect_download() as got:
        page.get_by_role("link", name="Take out its bundle").click()
    bundle = tmp_path / "lunch-crate.zip"
    got.value.save_as(bundle)
    page.evaluate("""async () => {
        const { jobs } = await (await fetch("/api/jobs")).json();
        await Promise.all(jobs.map(({ id }) => fetch(`/api/jobs/${id}`, { method: "DELETE" })));
    }""")
    page.reload()
    expect(page.get_by_text("Nothing on it yet")).to_be_visible()
    page.locator("input[type=file]").set_input_files(bundle)
    wait_ready(page)
    again = int(page.url.rsplit("/", 1)[1])
    after = page.evaluate("async (id) => await (await fetch(`/api/jobs/${id}/files/svg`)).text()", again)
    assert again != job and after == before
    page.get_by_role("link", name="Back to the shelf").click()
    wrong = tmp_path / "wrong.zip"
    wrong.write_bytes(json.dumps({}).encode())
    page.locator("input[type=file]").set_input_files(wrong)
    expect(page.get_by_text("This is no bundle of a job")).to_be_visible()


def test_a_mark_of_ten_millimetres_is_scanned_enlarged_and_cut(page: Page, tmp_path: Path) -> None:
    """The resolution that suits is proposed; it comes in as large as it is on the paper, and is cut ten times as large."""
    page.get_by_role("button", name="scan something").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("Nothing is chosen yet.")).to_be_visible()
    dialog.get_by_role("button", name="Printed mark").click()
    expect(dialog.get_by_role("combobox", name="Resolution")).to_contain_text("1200 dpi")
    expect(dialog.get_by_role("status")).to_contain_text("enough for a make of")
    dialog.get_by_label("Width").fill("216")
    dialog.get_by_label("Width").press("Enter")
    dialog.get_by_label("Height").fill("290")
    dialog.get_by_label("Height").press("Enter")
    dialog.get_by_role("combobox", name="Resolution").click()
    page.get_by_role("option", name="1200 dpi").click()
    expect(dialog.get_by_role("status")).to_contain_text("26 million are the most")
    expect(dialog.get_by_role("button", name="Scan", exact=True)).to_be_disabled()
    dialog.get_by_role("button", name="Printed mark").click()
    dialog.get_by_role("button", name="Scan", exact=True).click()
    wait_ready(page)
    size = page.get_by_role("button", name=re.compile("^Finished size"))
    expect(size).to_contain_text(re.compile(r"9\.[01] × 9\.[01] mm"))
    step(page, "Picture")
    set_number(page, "Finished width", "90")
    expect(size).to_contain_text("90.0 ×")
    wait_ready(page)
    step(page, "Check")
    page.get_by_role("button", name="The cutter").click()
    expect(page.get_by_text("All that was meant comes free.")).to_be_visible(timeout=40_000)
