"""A few stories told in a real browser."""

from dataclasses import replace

from django.core.management import call_command

from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.tests.browser import BrowserCase
from studio.tests.helpers import designed, make_job, make_plan, small_top


class BrowserTests(BrowserCase):
    def test_from_a_new_top_to_a_run_sheet(self):
        page = self.page
        page.click("text=New top")
        page.fill("#id_title", "Gull Quilt")
        page.fill("#id_block_size", "6")
        page.fill("#id_rows", "1")
        page.fill("#id_columns", "2")
        page.fill("#id_sashing", "wide")
        page.wait_for_selector("#id_sashing_fault:has-text('not a length')")
        page.fill("#id_sashing", "1")
        page.fill("#id_border2", "")
        page.wait_for_selector("#preview:has-text('16″ × 9″')")
        page.click("text=Make the chart")
        page.wait_for_selector("#work[data-drawn]")
        # Choose one ground triangle by hand and all that are alike with a key.
        page.locator('.zone[data-fabric="c"]').first.click()
        page.keyboard.press("a")
        self.assertEqual(page.inner_text("#chosen-count"), "16 zones")
        page.keyboard.press("d")
        page.wait_for_selector("#drawer")
        self.choose_design("inset_echo", page)
        page.wait_for_selector("#s-first")
        page.fill("#s-first", "1/4")
        page.click("#drawer .button-strong")
        page.wait_for_selector(".legend-entry")
        # What is left gets a meander.
        page.click("[data-act=bare]")
        page.click("#bar [data-act=design]")
        page.wait_for_selector("#drawer")
        self.choose_design("meander", page)
        page.wait_for_selector("#s-gap")
        page.fill("#s-gap", "nothing")
        page.wait_for_selector("[data-fault=set_gap]:has-text('not a length')")
        page.fill("#s-gap", "3/8")
        page.click("#drawer .button-strong")
        page.wait_for_selector("text=all assigned")
        page.keyboard.press("u")
        page.wait_for_selector("text=without a design")
        page.keyboard.press("r")
        page.wait_for_selector("text=all assigned")
        # Who opens an entry of the legend has chosen its zones: tools below the sheet are for them.
        page.locator(".legend-entry", has_text="Inset echo").click()
        page.wait_for_selector("#drawer")
        self.assertEqual(page.inner_text("#chosen-count"), "16 zones")
        self.assertEqual(page.locator('.zone.chosen[data-fabric="c"]').count(), 16)
        page.click("nav >> text=Route")
        page.click("text=Plan the route")
        page.wait_for_selector("text=waiting for the worker")
        self.work_off_the_queue()
        page.wait_for_selector("#work[data-walking]")
        page.wait_for_selector("text=A first answer", state="detached")
        page.wait_for_selector(".htmx-request", state="detached")
        self.assertIn("no route from place to place can lose less than", page.inner_text("#plan"))
        page.focus("#terrain")
        page.keyboard.press("Home")
        page.keyboard.press("PageUp")
        self.assertEqual(page.get_attribute("#terrain", "aria-valuenow"), "10")
        self.through_the_route_panel(page)
        page.click("text=Run sheet")
        page.wait_for_selector("text=Tie off and cut")
        self.assertEqual(self.faults, [])

    def through_the_route_panel(self, page):
        """Paths and passes are gone to by touch and by keys; another order of work is a change."""
        page.wait_for_selector("#side >> text=Paths, learned once")
        self.assertTrue(page.locator("#side svg").count())
        page.locator("#side ul [data-act=seek]").last.click()
        late = int(page.get_attribute("#terrain", "aria-valuenow"))
        self.assertGreater(late, 0)
        page.locator("#side ol [data-act=seek]").first.focus()
        page.keyboard.press("Enter")
        self.assertLess(int(page.get_attribute("#terrain", "aria-valuenow")), late)
        page.locator("#side >> text=closer, and in your order").first.click()
        page.wait_for_selector("#things")
        words = page.locator("#things li span").all_inner_texts()
        page.locator("#things [data-act=later]").first.focus()
        page.keyboard.press("Enter")
        moved = page.locator("#things li span").all_inner_texts()
        self.assertEqual(moved[:2], words[1::-1])
        page.locator("#things [data-act=earlier]").nth(1).click()
        self.assertEqual(page.locator("#things li span").all_inner_texts(), words)
        page.locator("#things [data-act=later]").first.click()
        page.click("text=What does it cost?")
        page.wait_for_selector("#order-price:has-text('Costs')")
        page.click("text=‹ all paths")
        page.wait_for_selector("#school")
        page.select_option("#school", "pass")
        page.wait_for_selector("text=No route for the job as it is now")
        page.keyboard.press("u")
        page.wait_for_selector("#side >> text=Paths, learned once")

    def test_two_people_on_one_job(self):
        job = make_job(self.studio, self.anna)
        self.open(job, "zones")
        other = self.signed_in()
        self.open(job, "zones", other)
        for page, kind in ((self.page, "b1.1.p0"), (other, "b1.1.r0c0.0")):
            page.locator(f'.zone[data-id="z:{kind}"]').click()
            page.keyboard.press("d")
            page.wait_for_selector(".tile")
        for page in (self.page, other):
            page.click("#drawer >> text=Forbid")
            page.wait_for_timeout(300)
        other.wait_for_selector("text=changed while you were working")
        self.assertIn("Forbade stitching", other.inner_text("#message"))
        banned = [z.id for z in core_job(Job.objects.get(pk=job.pk)).zones if z.forbidden]
        self.assertEqual(banned, ["z:b1.1.p0"])
        other.click("text=Show the newest")
        other.wait_for_selector('.zone.forbidden[data-id="z:b1.1.p0"]')

    def test_keys_alone_walk_the_zones(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.open(job, "zones")
        page = self.page
        page.locator(".zone").first.focus()
        seen = set()
        for key in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowDown", "ArrowLeft"):
            page.keyboard.press(key)
            seen.add(page.evaluate("document.activeElement.dataset.id"))
        self.assertGreaterEqual(len(seen), 4)
        page.keyboard.press("Space")
        page.keyboard.press("ArrowUp")
        page.keyboard.press("Shift+Space")
        self.assertEqual(page.locator('.zone[aria-selected="true"]').count(), 2)
        page.keyboard.press("Escape")
        self.assertEqual(page.locator('.zone[aria-selected="true"]').count(), 0)
        page.keyboard.press("?")
        self.assertTrue(page.is_visible("text=walk from zone to zone"))
        self.assertEqual(self.faults, [])

    def test_the_route_plays_and_the_canvas_is_not_empty(self):
        job = make_job(self.studio, self.anna)
        make_plan(job)
        self.open(job, "route")
        page = self.page
        page.wait_for_selector("#work[data-walking]")
        page.keyboard.press("p")
        page.wait_for_timeout(400)
        self.assertIn("Hold", page.inner_text("#play"))
        page.click("#play")
        ink = page.evaluate(
            """() => { const c = document.getElementById("lines");
                const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data;
                let n = 0; for (let i = 3; i < d.length; i += 4) if (d[i]) n++; return n; }"""
        )
        self.assertGreater(ink, 2000)

    def test_the_demo_is_shown_whole_on_a_tablet(self):
        call_command("load_demo", verbosity=0)
        job = make_job(self.studio, self.anna)
        page = self.page
        page.set_viewport_size({"width": 820, "height": 1180})
        self.open(job, "designs")
        for name in ("#zones", "#side", "nav"):
            box = page.locator(name).first.bounding_box()
            self.assertGreaterEqual(box["x"], -1)
            self.assertLessEqual(box["x"] + box["width"], 821)
        self.assertGreater(page.locator("#zones").bounding_box()["width"], 400)

    def test_zones_are_cut_by_tool_and_by_hand(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.open(job, "zones")
        page = self.page
        page.locator('.zone[data-role="cornerstone"], .zone[data-role="sashing"]').first.click()
        page.select_option("#alike-by", index=5)
        count = page.locator('.zone[aria-selected="true"]').count()
        self.assertGreaterEqual(count, 1)
        page.keyboard.press("Escape")
        page.locator('.zone[data-role="border"]').first.click()
        page.select_option("#alike-by", index=5)
        self.assertEqual(page.locator('.zone[aria-selected="true"]').count(), 4)
        page.keyboard.press("c")
        page.wait_for_selector("#cutter:has-text('Cut 4 zones')")
        page.select_option("#c-tool", "across")
        self.assertTrue(page.is_hidden("#c-measures"))
        before = page.locator(".zone").count()
        page.click("#cutter >> button:text-is('Cut')")
        page.locator(".zone").nth(before + 3).wait_for(state="attached")
        # A shape drawn across blocks with the pointer ignores the piecing.
        page.locator('.zone[data-role="background"]').first.click()
        page.keyboard.press("c")
        page.wait_for_selector("#cutter")
        page.click("text=Draw a shape")
        box = page.locator("#zones").bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x - 60, y - 40)
        page.mouse.down()
        for dx, dy in ((60, -40), (60, 40), (-60, 40)):
            page.mouse.move(x + dx, y + dy, steps=4)
        page.mouse.up()
        page.wait_for_selector('.zone[data-role="free"]')
        self.assertEqual(self.faults, [])

    def test_blocks_are_laid_by_touching_them(self):
        job = create_job(
            self.studio, self.anna, replace(designed(small_top(2, 3)), legend=()), "made"
        )
        self.open(job, "zones")
        page = self.page

        def at(block):
            box = page.locator(f'.zone[data-block="{block}"]').first.bounding_box()
            return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

        def kinds():
            core = core_job(Job.objects.select_related("head").get(pk=job.pk))
            return {p.block: p.kind for p in core.chart.patches if p.block is not None}

        page.click("text=Lay blocks")
        page.click(".pictures label[title='Log cabin']")
        self.assertEqual(page.inner_text("[data-block-name]"), "Log cabin")
        # Touched quickly one after the other, each is laid on what the last one made; another block
        # may be chosen meanwhile.
        spots = [at(block) for block in ("0.0", "1.2", "1.1")]
        page.mouse.click(*spots[0])
        page.mouse.click(*spots[1])
        page.click(".pictures label[title='Pinwheel']")
        page.mouse.click(*spots[2])
        page.wait_for_selector("#hint[data-waiting='0']")
        self.assertEqual({kinds()[0, 0], kinds()[1, 2], kinds()[1, 1]}, {"log_cabin", "pinwheel"})
        base = int(page.get_attribute("#state", "data-base"))
        page.click(".pictures label[title='Log cabin']")
        # The panel is still there; drawn over, two are turned at once.
        page.select_option("#b-turn", "1")
        page.mouse.move(*at("0.1"))
        page.mouse.down()
        page.mouse.move(*at("0.2"), steps=12)
        page.mouse.up()
        page.wait_for_selector(f"#state[data-base='{base + 1}']")
        core = core_job(Job.objects.select_related("head").get(pk=job.pk))
        self.assertEqual({(e.row, e.column, e.turn) for e in core.survey.exchanged},
                         {(0, 0, 0), (1, 2, 0), (1, 1, 0), (0, 1, 1), (0, 2, 1)})  # fmt: skip
        # Left, a touch chooses a zone again.
        page.click("#hint button")
        page.mouse.click(*at("1.0"))
        page.wait_for_selector("#bar:not([hidden])")
        self.assertEqual(kinds()[1, 0], core.chart.patch("b2.1.r0c0.0").kind)
        self.assertEqual(self.faults, [])
