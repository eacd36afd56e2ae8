"""Pages, papers and scripts in another language; what people wrote stays as they wrote it."""

from __future__ import annotations

import ast
import gettext
import inspect
import io
import re
from collections import Counter
from pathlib import Path

from django.conf import settings as django_settings
from django.template import engines
from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from hypothesis import given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from chorograph_core.tests import examples, long
from chorograph_core.zones import places
from studio.accounts.models import Membership
from studio.agenda.diary import calendar_of
from studio.asking import EditError
from studio.helping.guide import pages as guide_pages
from studio.job_log.models import Entry
from studio.languages import gathering, pages, words
from studio.languages.catalogue import FIELD, LOCALES, NAMES, SOURCE, Pattern, of
from studio.languages.figures import alone
from studio.languages.loading import shown
from studio.languages.telling import _Teller, told, told_all, told_whole
from studio.outbox.models import Letter
from studio.papers.kinds import KINDS
from studio.quotes.documents import issue, make_link, signed, write_letter
from studio.shelf.starting import stock
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job, make_plan, make_studio
from studio.tests.test_no_inch import WalkCase, words_of
from studio.writing import locale_for, write_as, written_as, written_money

OTHERS = [language for language in NAMES if language != SOURCE]
TEMPLATES = Path(django_settings.HOME) / "studio" / "templates"
MARKUP = re.compile(r"</?[a-z]+>|&\w+;")
ENGLISH = re.compile(
    r"\b(?:the|and|with|from|which|this|that|are|not|for|its|you|your|she|when|has|have|were|been|their|they"
    r"|each|what|where|how|who|again|until|would|could|more|than|there|these|those|only|because)\b",
    re.IGNORECASE,
)
"""Words without which hardly an English sentence does, and that Dutch has not."""


class CatalogueTests(SimpleTestCase):
    def test_everything_that_is_read_is_said_in_every_language(self):
        for language in OTHERS:
            for domain, messages in gathering.DOMAINS.items():
                with self.subTest(language, domain=domain):
                    known = gathering.read(language, domain)
                    wanted = {message for message, _ in messages()}
                    self.assertEqual(sorted(wanted - set(known)), [])
                    self.assertEqual(sorted(set(known) - wanted), [])

    def test_what_programs_read_is_what_is_written(self):
        for language in OTHERS:
            for domain in gathering.DOMAINS:
                compiled = gettext.translation(domain, LOCALES, [language])
                for message, said in gathering.read(language, domain).items():
                    self.assertEqual(compiled.gettext(message), said)

    def test_no_field_is_made_up_and_no_tag_lost(self):
        for language in OTHERS:
            for domain in gathering.DOMAINS:
                for message, said in gathering.read(language, domain).items():
                    with self.subTest(message):
                        fields = {found[1] for found in FIELD.finditer(message)}
                        self.assertLessEqual({found[1] for found in FIELD.finditer(said)}, fields)
                        self.assertEqual(
                            Counter(MARKUP.findall(said)), Counter(MARKUP.findall(message))
                        )

    def test_hardly_anything_was_left_as_it_was(self):
        for language in OTHERS:
            for domain in ("pages", "scripts"):
                said = gathering.read(language, domain)
                same = [m for m, s in said.items() if m == s and ENGLISH.search(m)]
                self.assertEqual(same, [])


class PageTests(SimpleTestCase):
    def test_a_piece_of_a_template_is_a_message_with_its_variables(self):
        source = (
            '<p class="x" title="{{ n }} zones">in <b>{{ n }}</b> thread{{ n|pluralize }}{% if a %}, or more'
            '{% endif %}</p><input value="as it is"><script>let x = "not this";</script>{# nor this #}'
        )
        found = ["{1} zones", "in <b>{1}</b> thread{2}", ", or more"]
        self.assertEqual(pages.messages(source), found)

    def test_variables_go_where_the_other_language_wants_them(self):
        source = "<p>{{ a }} of {{ b }} zone{{ n|pluralize }}</p>"
        said = {"{1} of {2} zone{3}": "van {2} {3:vlak,vlakken} {1}"}
        made = pages.put_in(source, lambda message: said[message], lambda variable: variable)
        self.assertEqual(made, '<p>van {{ b }} {{ n|pluralize:"vlak,vlakken" }} {{ a }}</p>')

    def test_what_stands_in_a_field_is_nobodys_to_change(self):
        source = '<textarea>{{ note }}</textarea><input value="{{ note }}"><p>{{ note }}</p>'
        made = pages.put_in(source, lambda message: message, lambda _: "X")
        self.assertEqual(made, '<textarea>{{ note }}</textarea><input value="{{ note }}"><p>X</p>')

    def test_every_template_without_its_translation_is_itself(self):
        for path in TEMPLATES.rglob("*.html"):
            source = path.read_text()
            made = pages.put_in(source, lambda message: message, lambda variable: variable)
            self.assertEqual("".join(made.split()), "".join(source.split()), path.name)

    def test_every_template_can_be_read_in_every_language(self):
        for locale in ("", "nl_NL"):
            with written_as(locale):
                for path in TEMPLATES.rglob("*.html"):
                    engines["django"].get_template(str(path.relative_to(TEMPLATES)))

    def test_a_sentence_is_told_before_it_is_put_into_other_units(self):
        self.assertEqual(
            shown("{{ a.b|in_units:u|capfirst }}"), "{{ a.b|told|in_units:u|capfirst|figured }}"
        )
        self.assertEqual(
            shown("{{ label|default:field.label }}"),
            "{{ label|told|default:field.label|told|figured }}",
        )
        self.assertEqual(shown("{{ job.title }}"), "{{ job.title }}")
        self.assertEqual(shown("{{ each.text|as_written }}"), "{{ each.text|as_written }}")


class WordsTests(SimpleTestCase):
    def test_constants_and_formatted_sentences_of_code(self):
        source = '''
"""Documentation is for others."""
__all__ = ["Something"]
NAME = "Ribbon candy"
KEY, FORM = "ribbon_candy", re.compile("a pattern of text")
def says(n, x):
    """Nor is this said."""
    return f"{n} zone{'s' if n > 1 else ''} {f'of {x} blocks'}: {x:.1f} yd"
LETTER = f"Dear {x},\\n\\nthe page is open until {y}."
'''
        self.assertEqual(
            set(words.messages_of(source)),
            {
                "Ribbon candy", "{1} zone of {2} blocks: {3} yd", "{1} zones of {2} blocks: {3} yd",
                "of {1} blocks", "Dear {1},", "the page is open until {1}.",
            },
        )  # fmt: skip


class TellingTests(SimpleTestCase):
    def setUp(self):
        write_as("nl_NL")
        self.addCleanup(write_as, "")

    def test_sentences_are_found_by_how_they_were_made(self):
        for sentence, said in {
            "Ribbon candy": "Lintsnoep",
            "12 layings, 7 s each": "12 keer aanleggen, 7 s elk",
            "Roll on to pass 3.": "Rol door naar baan 3.",
            "In at the lower left: up 4″, slant down right 17″. Out at the top.":
                "Erin linksonder: omhoog 4″, schuin rechts omlaag 17″. Eruit boven.",
            "border 2 left, border 1 top": "rand 2 links, rand 1 boven",
            "ring 4 left: ditches": "ring 4 links: naden",
            "takes up 3.1% of a border 4% too full": "neemt 3,1% op van een rand die 4% te ruim is",
            "covers 6 mm; lines may run off the edge, points stay 8 mm inside":
                "bedekt 6 mm; lijnen mogen over de kant lopen, punten blijven 8 mm binnen",
            "2 zones are left open: the client forbids it.":
                "2 vlakken worden opengelaten: de klant verbiedt het.",
            "1 zone is left open: the client forbids it.":
                "1 vlak wordt opengelaten: de klant verbiedt het.",
            "2 h 05": "2 u 05",
            "Taken in: 7 threads, 3 classes of bobbins, 2 things that happened.":
                "Opgenomen: 7 garens, 3 spoelsoorten, 2 dingen die gebeurden.",
            "bad.jpg: This is no picture that can be read: JPEG, PNG, WebP or HEIC.":
                "bad.jpg: Dit is geen foto die gelezen kan worden: JPEG, PNG, WebP of HEIC.",
        }.items():  # fmt: skip
            with self.subTest(sentence):
                self.assertEqual(told(sentence), said)

    def test_every_kind_of_place_has_its_word(self):
        # All that a shape can be called, as the code that calls it so says it, and the parts of a top.
        tree = ast.parse(inspect.getsource(places))
        calling = [
            node for node in tree.body if getattr(node, "name", "") in ("shape_word", "_four_sided")
        ]
        said = {leaf.value for node in calling for part in node.body[1:] for leaf in ast.walk(part)
                if isinstance(leaf, ast.Constant) and isinstance(leaf.value, str)}  # fmt: skip
        self.assertLess({"diamond", "kite", "piece", "octagon", "picture frame"}, said)
        names = said | set(places.NAMES.values()) | set(places.PIECED.values())
        with written_as("nl_NL"):
            for text in (
                each for name in names for each in (name, places.plural(name), f"one {name}")
            ):
                self.assertNotEqual(told(text), text)

    def test_a_refusal_is_told_like_any_other_sentence(self):
        self.assertEqual(told(EditError("Choose how to cut.")), "Kies hoe er gesneden wordt.")

    def test_a_sentence_is_found_in_whichever_unit_it_stands(self):
        self.assertEqual(
            told("3.8 cm from the left, 7 cm from the top"), "3,8 cm van links, 7 cm van boven"
        )
        self.assertEqual(
            told("3 1/2″ from the left, 7″ from the top"), "3 1/2″ van links, 7″ van boven"
        )

    def test_what_somebody_wrote_stays(self):
        for text in (
            "needle at 14",
            "pattern of blue",
            "Path and dash grounds",
            "the Tarn Hollow guild",
            "",
            "12",
        ):
            with self.subTest(text):
                self.assertEqual(told(text), text)
        self.assertEqual(told_whole("Wedges, rungs"), "Wedges, rungs")
        self.assertEqual(told_whole("Swirls"), "Wervelingen")

    def test_what_is_sent_to_scripts(self):
        sent = {"title": "Swirls", "legs": [{"title": "Swirls", "zone": "Swirls", "n": 2}]}
        made = told_all(sent, frozenset({"legs"}))
        self.assertEqual(made["title"], "Swirls")
        self.assertEqual(made["legs"][0]["title"], "Wervelingen")
        self.assertEqual(told_all(sent, frozenset({"title"}))["legs"][0]["zone"], "Swirls")

    def test_figures_have_their_comma(self):
        for figure, wanted in (
            (1.5, "1,5"), ("4–5.2", "4–5,2"), ("12.9", "12,9"), ("1,021", "1.021"), ("1,021.5", "1.021,5"),
            ("1.2.3", "1.2.3"), ("b1.2", "b1.2"), ("1, 2", "1, 2"), (3, 3),
        ):  # fmt: skip
            self.assertEqual(alone(figure, "nl"), wanted)
        self.assertEqual(told("1,021 yd"), "1.021 yd")
        for units in ("cm/cm²", "in/in²"):
            self.assertEqual(told(f"0.8 {units}"), f"0,8 {units}")
        self.assertEqual(told("about 2,601 yd at 0.012"), "ongeveer 2.601 yd à 0.012")
        # A note keeps its points and commas, as it keeps its words.
        self.assertEqual(told("her rows 4.0 in, 1,021 of them"), "her rows 4.0 in, 1,021 of them")
        self.assertEqual(told("block 1.2, 1.12"), "blok 1.2, 1.12")
        self.assertEqual(told("In 12.9 hours it brings 47.59 an hour; you want 38.00."),
                         "In 12,9 uur brengt het 47,59 per uur op; je wilt 38.00.")  # fmt: skip
        self.assertEqual(
            told("Quote 2 issued: Full custom $161.59."),
            "Offerte 2 uitgegeven: Helemaal op maat $161,59.",
        )
        with written_as("en_US"):
            self.assertEqual(told("1,021 yd"), "1,021 yd")
        self.assertEqual(alone("12.9", "en"), "12.9")

    def test_every_pattern_is_found_again(self):
        """Filled with figures, each sentence is told as its own translation, and as no other."""
        for message, said in of("nl", "words").items():
            pattern = Pattern(message, said)
            # What is told by its place, in other units or side by side, has tests of its own.
            if not pattern.names or "}{" in pattern.message or set(pattern.names) & {"", "_1"}:
                continue
            values = {name: str(17 + 6 * k) for k, name in enumerate(dict.fromkeys(pattern.names))}
            sentence = FIELD.sub(lambda found, given=values: given[found[1]], pattern.message)
            wanted = FIELD.sub(
                lambda found, given=values: found[3] if found[2] is not None else given[found[1]],
                pattern.said,
            )
            with self.subTest(message):
                self.assertEqual(told(sentence), wanted)

    def test_long_and_odd_texts_are_left_in_the_end(self):
        """What reads like parts of a hundred patterns, over and over, is no sentence of ours."""
        bits = [
            re.sub(r"\{\w*\}", " of the ", message) for message in sorted(of("nl", "words"))[::7]
        ]
        for text in (
            " ".join(bits[:400]),
            ", ".join(bits[:300]),
            " and ".join(bits[:200]),
            "in the " * 3000,
            "a" * 9000,
        ):
            self.assertIsInstance(told(text), str)
            teller = _Teller("nl")
            teller.told(text[:600])
            self.assertGreater(teller.tries, -3000)

    @long
    @settings(max_examples=examples(60), deadline=None)
    @given(st.text(max_size=60))
    def test_nothing_makes_it_stumble(self, text):
        self.assertIsInstance(told(text), str)


class StudioTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.studio.locale = "nl_NL"
        self.studio.save()
        self.job = make_job(self.studio, self.anna, 1, 2)
        self.job.title = "Swirls"
        self.job.save()
        self.client.force_login(self.anna)
        self.addCleanup(write_as, "")

    def test_a_studio_reads_its_own_language_and_another_hers(self):
        self.assertContains(self.client.get(reverse("jobs")), "Nieuwe intake")
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        answer = self.client.get(reverse("jobs"))
        self.assertContains(answer, "New consult")
        self.assertContains(answer, '<html lang="en">')

    def test_before_anybody_signed_in_the_browser_says_which(self):
        self.client.logout()
        page = self.client.get(
            reverse("sign-in"), headers={"Accept-Language": "nl-BE,nl;q=0.9,en;q=0.5"}
        )
        self.assertContains(page, "Aanmelden")
        self.assertContains(page, '<html lang="nl">')
        self.assertContains(self.client.get(reverse("sign-in")), "Sign in")
        for wanted, locale in {"nl": "nl_NL", "nl-BE": "nl_BE", "de, nl;q=0.3": "nl_NL", "en, nl": "", "": "",
                               "x" * 300: ""}.items():  # fmt: skip
            self.assertEqual(locale_for(wanted), locale)

    def test_it_is_chosen_like_any_other_setting(self):
        self.studio.locale = ""
        self.studio.save()
        page = self.client.get(reverse("house"))
        self.assertContains(page, "Nederlands, België")
        form = {
            "name": "Loft",
            "units": "cm",
            "locale": "nl_BE",
            "paper": "a4",
            "address": "",
            "seen": "",
        }
        form["seen"] = (
            page.context["form"]["seen"].value() if "seen" in page.context["form"].fields else ""
        )
        self.client.post(reverse("house"), form)
        self.studio.refresh_from_db()
        self.assertEqual(self.studio.locale, "nl_BE")
        self.assertContains(self.client.get(reverse("password")), "Nieuw wachtwoord")

    def test_a_title_that_is_called_like_a_motif_stays(self):
        page = self.client.get(reverse("jobs"))
        self.assertContains(page, "Swirls")
        self.assertNotContains(page, "Wervelingen")

    def test_notes_stay_and_what_was_written_down_follows(self):
        Entry.objects.create(job=self.job, kind="note", text="Start at the top, before the others")
        Entry.objects.create(
            job=self.job, kind="work", text="Planning broke off. The job is as it was; try again."
        )
        page = self.client.get(reverse("book", args=[self.job.pk]))
        self.assertContains(page, "Start at the top, before the others")
        self.assertContains(page, "Het plannen is afgebroken.")

    def test_a_refusal_is_a_sentence_in_her_language(self):
        page = self.client.post(reverse("book", args=[self.job.pk]), {"text": ""})
        self.assertContains(page, "Schrijf eerst iets.", status_code=page.status_code)
        form = self.client.post(reverse("shelf-new", args=["thread"]), {"name": ""})
        self.assertContains(form, "Dit veld is verplicht", status_code=form.status_code)

    def test_a_client_reads_letter_page_and_answer_in_the_language_of_the_studio(self):
        stock(self.studio)
        quote = issue(self.job, self.anna, ["light", "full"])
        link = make_link(quote, self.anna)
        self.client.get(reverse("jobs"))
        write_letter(link, self.anna, "http://x/y")
        letter = Letter.objects.get()
        self.assertIn("de tekening van je top", letter.text)
        self.assertIn("\n\n", letter.text)
        self.client.logout()
        page = self.client.get(reverse("client", args=[signed(link)]))
        self.assertContains(page, "Het gekozen niveau aannemen")
        self.assertContains(page, "Licht op maat")
        self.assertEqual(
            ENGLISH.findall(words_of(page.content.decode()).replace(self.job.title, "")), []
        )

    def test_somebody_reads_otherwise_than_her_studio(self):
        member = Membership.objects.get(studio=self.studio, person=self.anna)
        form = {"first_name": "Anna", "email": "", "locale": "en_GB"}
        self.assertRedirects(self.client.post(reverse("yourself"), form), reverse("yourself"))
        member.refresh_from_db()
        self.assertEqual(member.locale, "en_GB")
        self.assertContains(self.client.get(reverse("jobs")), "New consult")
        # What goes to a client is written as the studio does, whoever sends it.
        stock(self.studio)
        quote = issue(self.job, self.anna, ["light", "full"])
        link = make_link(quote, self.anna)
        self.client.post(reverse("quotes", args=[self.job.pk]))
        write_letter(link, self.anna, "http://x/y")
        self.assertIn("de tekening van je top", Letter.objects.get().text)
        pdf = self.client.get(reverse("quote-pdf", args=[self.job.pk, quote.number])).content
        says = PdfReader(io.BytesIO(pdf)).pages[0].extract_text()
        self.assertIn(f"Offerte {quote.number}", says)
        self.client.post(reverse("yourself"), {**form, "locale": ""})
        self.assertContains(self.client.get(reverse("jobs")), "Nieuwe intake")

    def test_the_calendar_speaks_it_too(self):
        with written_as("nl_NL"):
            self.assertNotIn(b"is due", calendar_of(self.studio))

    def test_money_and_dates(self):
        with written_as("nl_NL"):
            self.assertEqual(written_money(1234.5, "EUR"), "€\u00a01.234,50")


class DutchWalk(WalkCase):
    """Every page of a studio in Dutch and centimetres: nothing English is left but what was written in it."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.studio.locale = "nl_NL"
        cls.studio.save()

    def setUp(self):
        self.addCleanup(write_as, "")

    @long
    def test_no_page_speaks_english(self):
        seen, found = set(), {}
        for name, says in self.walk():
            seen.add(name)
            for line in says.splitlines():
                hits = ENGLISH.findall(line.replace("made for a test", ""))
                if hits and name != "prices":
                    found.setdefault(name, {})[" ".join(line.split())[:160]] = hits
        self.assertGreater(len(seen), 45)
        for name, lines in found.items():
            with self.subTest(name):
                self.assertEqual(list(lines)[:8], [])

    def test_the_guide_is_there_page_by_page(self):
        with written_as("nl_NL"):
            dutch = guide_pages("cm")
        english = guide_pages("cm")
        self.assertEqual(list(dutch), list(english))
        for key, page in dutch.items():
            with self.subTest(key):
                self.assertNotEqual(page.title, english[key].title)
                self.assertEqual(len(page.paragraphs), len(english[key].paragraphs))
                self.assertEqual(page.body.count("<img"), english[key].body.count("<img"))
                self.assertEqual(page.body.count("<h2"), english[key].body.count("<h2"))
        self.client.force_login(self.anna)
        self.assertContains(
            self.client.get(reverse("help"), {"q": "geregen open kant"}), "0,3 cm van de open kant"
        )

    @long
    def test_papers_are_printed_in_it(self):
        with written_as("nl_NL"):
            pdf = KINDS["run-sheet"].make(self.job, lambda share: None)
        says = "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)
        for word in (
            "Werkblad",
            "Voor de eerste steek",
            "Paden, één keer geleerd",
            "naald omlaag en omhoog",
        ):
            self.assertIn(word, says)
        self.assertEqual(sorted(set(ENGLISH.findall(says))), [])


class DutchStory(BrowserCase):
    def setUp(self):
        super().setUp()
        self.studio.locale = "nl_NL"
        self.studio.save()
        stock(self.studio)

    @long
    def test_a_job_is_designed_planned_and_stitched(self):
        job = make_job(self.studio, self.anna, 1, 2)
        page = self.page
        page.goto(self.live_server_url + reverse("work", args=[job.pk]) + "?stage=designs")
        self.assertEqual(page.evaluate("document.documentElement.lang"), "nl")
        page.locator('.zone[data-id*="b1.1"]').nth(4).click()
        page.wait_for_selector("#chosen-count:has-text('blok 1.1')")
        page.get_by_role("button", name="Dessin", exact=True).first.click()
        page.get_by_placeholder("zoek op naam").fill("wervel")
        page.locator("#tray .tile:visible").first.click()
        page.wait_for_selector("#d-chosen:has-text('Doorsnee van een werveling')")
        page.get_by_role("button", name="In de legenda zetten").click()
        page.wait_for_selector("#side >> text=Wervelingen")
        other = make_job(self.studio, self.anna, 1, 2)
        make_plan(other)
        page.goto(self.live_server_url + reverse("stitch", args=[other.pk]))
        page.get_by_role("button", name="Alles bekeken").click()
        page.get_by_role("button", name="Gedaan").click()
        page.wait_for_selector("#s-until:has-text('tot de volgende stop')")
        page.wait_for_selector("#stitch[data-waiting='0']")
        self.assertEqual(self.faults, [])
