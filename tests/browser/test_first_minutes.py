"""The README's first five minutes, step by step: what is typed and clicked is read out of it, word by word."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

README = Path(__file__).resolve().parents[2] / "README.md"


def steps() -> list[str]:
    """Return the numbered steps, each on one line."""
    section = README.read_text().split("## The first five minutes")[1].split("The same from the command line:")[0]
    return [" ".join(step.split()) for step in re.split(r"^\d+\. ", section, flags=re.MULTILINE)[1:]]


def said(step: str) -> list[str]:
    """Return what a step has in code or in bold, in order."""
    return [code or bold for code, bold in re.findall(r"`([^`]+)`|\*\*([^*]+)\*\*", step)]


class FirstMinutes(BrowserCase):
    def take(self, page: Page, key: str, typed: str, lines: int) -> None:
        page.keyboard.press(key)
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(lines)

    @thorough
    @in_browser
    def test_word_by_word(self, page: Page) -> None:
        first, second, third, fourth, results, fifth, sixth, seventh, eighth, ninth = steps()
        self.context.clear_cookies()
        page.goto(self.live_server_url)
        name, password = said(first)
        page.fill("[name=username]", name)
        page.fill("[name=password]", password)
        page.keyboard.press("Enter")
        page.wait_for_selector("#book")
        self.assertEqual(self.matches(page), self.number(first, "lists the"))
        expect(page.locator("[data-guide]")).to_be_visible()
        expect(page.locator(".first-visit")).to_contain_text("Absentee with high equity")
        page.click("details.counties summary")
        self.assertEqual(page.locator("details.counties input").count(), 3)
        page.click("details.counties summary")

        key, typed, line = said(second)
        page.locator("#line-0, #lines").first.focus()
        page.locator("body").press("Escape")
        self.take(page, key, typed, 1)
        self.assertEqual(self.lines(page), [f"class {line}"])
        expect(page.locator("#line-0 .off")).to_contain_text("−")

        *sentences, money, day, words = said(third)
        for place, sentence in enumerate(sentences, start=2):
            # The box has the focus after each, and the key that leads to it is no text for it.
            self.take(page, key, sentence, place)
        self.assertEqual(self.lines(page)[1:], ["owner occupied no", "last sale more than 5 years ago", "beds 3 or more"])
        expect(page.locator("#line-2 .off")).to_contain_text("not known")
        for other, meant in ((money, "under $300,000"), (day, "before 30 Apr 2014"), (words, "lis-pendens")):
            self.take(page, key, " ".join(other.split()), 5)
            expect(page.locator("#line-4 .val")).to_have_text(meant)
            page.keyboard.press("Control+z")
            expect(page.locator(".line")).to_have_count(4)

        self.lines_by_hand(page, fourth)
        self.results(page, results)
        self.as_text(page, fifth)
        self.walk(page, sixth)
        self.out(page, seventh)
        self.kept(page, eighth)
        records, bring, _, morning = said(ninth)
        page.click(f".spine >> text={records}")
        expect(page.locator("h1")).to_have_text(records)
        page.click(f"text={bring} >> nth=0")
        expect(page.locator("h1")).to_have_text(bring)
        page.click(f".spine >> text={morning}")
        expect(page.locator("main")).to_contain_text("Next fourteen days")

    def number(self, step: str, after: str) -> int:
        found = re.search(rf"{after} ([\d,]+)", step)
        assert found
        return int(found[1].replace(",", ""))

    def lines_by_hand(self, page: Page, step: str) -> None:
        off, excludes, joins, typed, book = said(step)
        page.hover("#line-3")
        expect(page.locator("#line-3 .give")).to_be_visible()
        expect(page.locator("#line-3 .give")).to_contain_text("Without it: + ")
        page.focus("#line-3")
        page.keyboard.press(off)
        expect(page.locator("#line-3")).to_have_class("line struck")
        page.keyboard.press("Alt+ArrowUp")
        expect(page.locator("#line-2")).to_have_class("line struck")
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        expect(page.locator("#line-3 .sentence")).to_have_text(re.compile(r"beds\s+3 or more"))
        expect(page.locator("#line-3")).to_have_class("line")
        for key, reads in ((excludes, "not 3 or more"), (joins, "any of")):
            page.focus("#line-3")
            page.keyboard.press(key)
            expect(page.locator(".ledger")).to_contain_text(reads)
            page.keyboard.press("Control+z")
            expect(page.locator("#line-3 .sentence")).to_have_text(re.compile(r"beds\s+3 or more"))
        page.focus("#line-3")
        page.keyboard.press("Delete")
        expect(page.locator(".line")).to_have_count(3)
        page.keyboard.press("Control+z")
        expect(page.locator(".line")).to_have_count(4)
        self.take(page, "/", typed, 5)
        expect(page.locator("#line-4 .sentence")).to_contain_text("remarks")
        page.keyboard.press("Control+z")
        expect(page.locator(".line")).to_have_count(4)
        page.click(f"text={book}")
        expect(page.locator("h1")).to_contain_text(book)
        page.go_back()
        page.wait_for_selector("#book")

    def results(self, page: Page, step: str) -> None:
        columns, sums, by_owner, takes_out, charts, keeps = said(step)
        page.focus("#line-0")
        page.keyboard.press(columns)
        expect(page.locator("#column-sets")).to_be_visible()
        page.locator("#line-0").press(columns)
        page.locator("#line-0").press(sums)
        expect(page.locator("#totals")).to_be_visible()
        page.locator("#line-0").press(sums)
        expect(page.locator("#totals")).to_have_count(0)
        page.click(f"text={by_owner}")
        expect(page.locator(".opens-owner").first).to_be_visible()
        page.click(f"text={by_owner}")
        expect(page.locator(".opens-owner")).to_have_count(0)
        before = self.matches(page)
        page.locator(".rows tbody input").first.check()
        page.keyboard.press(takes_out)
        expect(page.locator("#matches")).to_have_text(f"{before - 1:,}")
        page.keyboard.press("Control+z")
        expect(page.locator("#matches")).to_have_text(f"{before:,}")
        page.locator(".face:visible").get_by_role("button", name=charts).click()
        page.locator(".drawing .bar").first.click()
        expect(page.locator(".line")).to_have_count(5)
        page.keyboard.press("Control+z")
        expect(page.locator(".line")).to_have_count(4)
        page.locator(".face:visible").get_by_role("button", name="Table", exact=True).click()
        page.locator("#line-0").press(keeps.replace("Ctrl S", "Control+s"))
        expect(page.locator("h1")).to_have_text("Save this search")
        page.go_back()
        page.wait_for_selector("#book")

    def as_text(self, page: Page, step: str) -> None:
        (button,) = said(step)
        page.click(f".acts >> text={button}")
        expect(page.locator("textarea[name=text]")).to_have_value(
            "class: duplex\nowner-occupied: no\nlast-sale: more than 5 years ago\nbeds: 3.."
        )
        page.click("#left >> text=Cancel")
        page.wait_for_selector("#lines")

    def walk(self, page: Page, step: str) -> None:
        following, previous, back, tags, notes, adds, mails, undoes, comps, sheet = said(step)
        page.locator(".rows .id a").first.click()
        expect(page.locator("#at")).to_contain_text("1 of")
        self.assertEqual(page.locator("#ahead").count(), 1)
        page.keyboard.press(following)
        expect(page.locator("#at")).to_contain_text("2 of")
        page.keyboard.press(previous)
        expect(page.locator("#at")).to_contain_text("1 of")
        page.locator(".figures a.opens").first.click()
        page.wait_for_selector("#explained h2, #explained .turn")
        page.keyboard.press("Escape")
        for act, done in ((tags, "Tagged"), (notes, "Note added"), (adds, "Added to")):
            page.keyboard.press(act)
            page.keyboard.type("First")
            page.keyboard.press("Enter")
            expect(page.locator("main .says")).to_contain_text(done)
            page.keyboard.press(undoes)
            expect(page.locator("main .says")).to_contain_text("Undone")
        for act, leads_to in ((mails, "outreach"), (comps, "deals/comps"), (sheet, "deals/worksheets")):
            page.keyboard.press(act)
            page.wait_for_url(f"**/{leads_to}/**")
            page.wait_for_load_state()
            page.go_back()
            page.wait_for_url("**/property/**")
            page.wait_for_load_state()
        page.keyboard.press(back)
        page.wait_for_selector("#book")

    def out(self, page: Page, step: str) -> None:
        choose, labels, export = said(step)
        page.locator("#line-0").focus()
        page.keyboard.press(choose)
        page.click(f"#selection >> text={labels}")
        expect(page.locator(".paper text").first).to_be_visible()
        before = page.locator(".paper g.free").count()
        page.fill("#start", "4")
        expect(page.locator(".paper g.free")).to_have_count(before + 3)
        page.go_back()
        page.wait_for_selector("#book")
        page.locator("#line-0").focus()
        page.keyboard.press(choose)
        page.click(f"#selection >> text={export}")
        expect(page.locator("label[for=per-owner]")).to_contain_text("saves")
        page.go_back()
        page.wait_for_selector("#book")

    def kept(self, page: Page, step: str) -> None:
        keep, lists, typed, column = said(step)
        page.locator("#line-0").focus()
        page.keyboard.press("a")
        page.click(f"#selection >> text={keep}")
        page.fill("#name", "First minutes")
        page.keyboard.press("Enter")
        expect(page.locator(".says")).to_contain_text("added to “First minutes”")
        page.keyboard.press("Control+z")
        expect(page.locator(".says")).to_contain_text("Undone")
        page.click(f".spine >> text={lists}")
        # The demo's five, the one that was made on a property's page, and this one.
        expect(page.locator("tbody tr")).to_have_count(7)
        page.goto(self.live_server_url)
        self.take(page, "/", typed, 1)
        self.assertGreater(self.matches(page), 0)
        page.click("details.columns summary")
        page.keyboard.type(column)
        page.keyboard.press("Enter")
        page.click("text=Show these")
        expect(page.locator(".rows thead")).to_contain_text(column, ignore_case=True)


class Breathless(BrowserCase):
    EIGHT = (
        ("two-flat", "class: duplex"), ("absentee", "owner-occupied: no"), ("3 beds or more", "beds: 3.."),
        ("sold before 2020", "last-sale: before 2020-01-01"), ("equity over 40%", "equity-pct: 40.01.."),
        ("built before 1990", "year-built: ..1989"),
        ("no pool", "pool: no"), ("assessed value under 400k", "assessed-value: ..399999"),
    )  # fmt: skip

    @thorough
    @in_browser
    def test_eight_criteria_without_a_pause(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.focus("#typed")
        for typed, _ in self.EIGHT:
            page.keyboard.type(f"/{typed}" if typed == "no pool" else typed, delay=60)
            page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(8, timeout=30_000)
        self.assertEqual(page.get_attribute("#search", "data-search"), "\n".join(["county: Tamarack", *(line for _, line in self.EIGHT)]))
        self.assertEqual(page.input_value("#typed"), "")
        # Each of them is undone by a key, and comes back.
        for left in range(7, -1, -1):
            page.keyboard.press("Control+z")
            expect(page.locator(".line")).to_have_count(left)
        for there in range(1, 9):
            page.keyboard.press("Control+Shift+z")
            expect(page.locator(".line")).to_have_count(there)

    TEN = (
        ("2 units built before 1930", "units: 2\nyear-built: ..1929"),
        ("empty and owes taxes", "vacancy: any\ntax-years-delinquent: 1.."),
        ("townhouse, two baths, taxes under 3k", "class: townhouse\nbaths: 2\ntax-bill: ..2999"),
        ("free and clear, owned 20+ years", "free-and-clear: yes\nyears-owned: 20.."),
        ("duplexes in alder bay", "class: duplex\ncity: Alder Bay"),
        ("without a garage", "garage: 0"),
        ("nothing sold since 2015", "last-sale: before 2015-01-01"),
        ("roughly 3 beds", ""),
        ("over 3500 in taxes", ""),
        ("owners over 65", ""),
    )

    @thorough
    @in_browser
    def test_ten_sentences_with_enter_at_once(self, page: Page) -> None:
        for typed, lines in self.TEN:
            self.open(page, "county: Tamarack")
            page.focus("#typed")
            page.keyboard.type(typed, delay=60)
            page.keyboard.press("Enter")
            if lines:
                expect(page.locator("#search")).to_have_attribute("data-search", f"county: Tamarack\n{lines}")
                self.assertEqual(page.input_value("#typed"), "")
                page.keyboard.press("Control+z")
                expect(page.locator(".line")).to_have_count(0)
            else:
                # What is not sure is asked, and what was typed is still there.
                expect(page.locator("#add-wrong")).to_contain_text(re.compile("not used|either|no record"))
                self.assertEqual(page.input_value("#typed"), typed)
                self.assertEqual(page.get_attribute("#search", "data-search"), "county: Tamarack")

    @thorough
    @in_browser
    def test_an_edit_right_after_a_sentence_is_learned(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.focus("#typed")
        page.keyboard.type("empty with 2 units", delay=60)
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(2)
        page.locator("#line-1 .sentence button").first.click()
        page.fill("#editor [name=high]", "4")
        page.click("#editor >> text=Apply >> nth=0")
        expect(page.locator(".learned")).to_contain_text("“2 units” means units 2 to 4")
        self.assert_accessible(page)
        # Next time it is offered first, and Enter takes neither it nor what the words say.
        page.fill("#typed", "2 units on Mast Ln")
        expect(page.locator("#suggestions .sug").first).to_contain_text("2 to 4")
        self.assert_accessible(page)
        page.press("#typed", "Enter")
        expect(page.locator("#add-wrong")).to_contain_text("either units 2 to 4")
        page.press("#typed", "ArrowDown")
        page.press("#typed", "Enter")
        expect(page.locator(".line")).to_have_count(4)
        page.goto(f"{self.live_server_url}/find/phrases?group=corrections")
        expect(page.locator("table.corrections")).to_contain_text("2 units")
        self.assert_accessible(page)
        page.locator("table.corrections >> text=Delete").click()
        expect(page.locator("[role=status]")).to_contain_text("“2 units” deleted")

    @in_browser
    def test_a_trait_and_its_value_in_one_breath(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.focus("#typed")
        page.keyboard.type("beds")
        page.keyboard.press("Enter")
        page.keyboard.type("3+")
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(1)
        self.assertEqual(page.get_attribute("#search", "data-search"), "county: Tamarack\nbeds: 3..")

    @in_browser
    def test_a_sentence_is_read_while_it_is_typed(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.focus("#typed")
        page.keyboard.type("roughly 2 units on Mast Ln", delay=60)
        reading = page.locator("#reading")
        expect(reading.locator("li")).to_have_count(3)
        expect(reading.locator("li").nth(1)).to_contain_text(re.compile(r"Mast Ln.*\d", re.DOTALL))
        expect(reading.locator("s")).to_have_text("roughly")
        # Enter asks, and what is typed stays.
        page.keyboard.press("Enter")
        expect(page.locator("#add-wrong")).to_contain_text("not used: “roughly”")
        # Tab goes to a part, which typing replaces.
        page.fill("#typed", "2 units on Mast Ln")
        expect(reading).to_contain_text("Adds 2 lines")
        expect(reading.locator("li .n").last).to_have_text(re.compile(r"\d"))
        page.keyboard.press("Tab")
        page.keyboard.type("3 units")
        self.assertEqual(page.input_value("#typed"), "3 units on Mast Ln")
        expect(reading.locator("li q").first).to_have_text("3 units")
        expect(reading.locator("li .n").last).to_have_text(re.compile(r"\d"))
        self.assert_accessible(page)
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(2)
        self.assertEqual(page.get_attribute("#search", "data-search"), 'county: Tamarack\nunits: 3\nstreet: "Mast Ln"')

    @in_browser
    def test_what_means_nothing_is_given_back(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.focus("#typed")
        page.keyboard.type("qwxyz")
        page.keyboard.press("Enter")
        expect(page.locator("#add-wrong")).to_contain_text("nothing on record is called “qwxyz”")
        self.assertEqual(page.input_value("#typed"), "qwxyz")
        # A phrase that no listing has yet can be added, on purpose.
        page.fill("#typed", "qwxyz homestead")
        expect(page.locator("#reading s")).to_have_text("qwxyz")
        page.keyboard.press("ArrowUp")
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(1)
        expect(page.locator(".line")).to_contain_text("qwxyz homestead")
        # A name that nobody has is said, with the nearest.
        page.fill("#typed", 'owner-name: "ostromm"')
        page.press("#typed", "Enter")
        expect(page.locator("#add-wrong")).to_contain_text("no owner on record here is called “ostromm”; the nearest is")

    @thorough
    @in_browser
    def test_an_umbrella_opens_to_what_it_holds(self, page: Page) -> None:
        self.open(page, "county: Tamarack\nclass: multi-family")
        page.click("#line-0 .holds summary")
        expect(page.locator("#line-0 .holds")).to_contain_text("duplex, triplex, fourplex, apartments")
        page.click("#edit-0")
        expect(page.locator("#editor .umbrellas input[value=multi-family]")).to_be_checked()
        page.check("#editor .umbrellas input[value=land]")
        page.uncheck("#editor .umbrellas input[value=multi-family]")
        self.assert_accessible(page)
        page.click("#editor >> text=Apply >> nth=0")
        expect(page.locator("#line-0 .val")).to_have_text("land")

    @thorough
    @in_browser
    def test_choosers_by_keyboard(self, page: Page) -> None:
        self.open(page, "class: triplex")
        page.focus("details.columns summary")
        page.keyboard.press("Enter")
        expect(page.locator("[data-narrows=columns]")).to_be_focused()
        page.keyboard.type("mortgage lender")
        expect(page.locator("#columns .form-check:visible input:not(:checked)")).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page.locator("#column-lender")).to_be_checked()
        self.assertEqual(page.locator("#columns legend").first.inner_text(), "chosen")
        self.assert_accessible(page)
        page.click("text=Show these")
        expect(page.locator(".rows thead")).to_contain_text("Lender", ignore_case=True)
        page.click("[data-choose=all]")
        page.click("button[value=contacts]")
        page.fill("[data-narrows=file-columns]", "envelope")
        page.press("[data-narrows=file-columns]", "Enter")
        expect(page.locator("#column-envelope-name")).to_be_checked()
        self.assert_accessible(page)
