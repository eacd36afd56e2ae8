"""The job book: append only, searched as one would ask."""

from dataclasses import replace

from django.test import TestCase
from django.urls import reverse

from chorograph_core.designs.legend import Thread
from studio.job_log.facts import colour_words
from studio.job_log.models import Entry
from studio.job_log.recording import record
from studio.job_log.search import search
from studio.jobs.revisions import change_job
from studio.tests.helpers import make_job, make_studio


class BookTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        cls.other, (cls.berta,) = make_studio("Barn", "berta")
        cls.job = make_job(cls.studio, cls.anna)
        cls.second = make_job(cls.studio, cls.anna)
        cls.theirs = make_job(cls.other, cls.berta)

    def setUp(self):
        self.client.force_login(self.anna)

    def rename(self, job, title, **more):
        change_job(
            job.pk, None, self.anna, lambda core: replace(core, title=title, **more), "renamed"
        )

    def titles(self, words):
        return [found.job.title for found in search(self.studio, words)]

    def test_ask_as_one_would_ask_oneself(self):
        self.rename(self.job, "Harbour Sampler")
        rust = (Thread("indigo", "rust 40", "#a04a20"), Thread("clear", "clear", "#cccccc"),
                Thread("bracken", "sand", "#e0c090"))  # fmt: skip
        self.rename(self.second, "Rows of Geese", threads=rust)
        found = search(self.studio, "which thread did I use on that blue sampler")
        self.assertEqual(found[0].job.title, "Harbour Sampler")
        self.assertIn("<mark>Thread</mark>: ", found[0].facts)
        self.assertIn("indigo 40", found[0].facts)
        self.assertEqual(self.titles("geese in rust"), ["Rows of Geese"])
        self.assertEqual(self.titles("sampler"), ["Harbour Sampler"])
        self.assertEqual(self.titles("hippopotamus"), [])

    def test_notes_and_what_clients_write_are_found_with_their_line(self):
        record(self.job, "note", "The second feather wants one plume more.", self.anna)
        record(self.second, "client", "Could the ducks be larger?", who="Marit")
        found = search(self.studio, "plumes of the second feather")[0]
        self.assertIn("<mark>plume</mark>", found.lines[0][1])
        self.assertEqual(search(self.studio, "ducks")[0].lines[0][0].who, "Marit")

    def test_what_was_written_does_no_harm(self):
        record(self.job, "note", "<b onclick='x'>gull</b> & more", self.anna)
        answer = self.client.get(reverse("find"), {"q": "gull"})
        self.assertNotContains(answer, "<b onclick")
        self.assertContains(answer, "<mark>gull</mark>")
        for words in (
            "'",
            "\\",
            "a & | !",
            "<->",
            "(((",
            "'; drop table",
            "\x00",
            "é" * 400,
            "50% _",
        ):
            self.assertEqual(self.client.get(reverse("find"), {"q": words}).status_code, 200)

    def test_only_the_own_studio_is_searched(self):
        record(self.theirs, "note", "a secret walrus", self.berta)
        self.assertEqual(search(self.studio, "walrus"), [])
        self.assertNotContains(
            self.client.get(reverse("find"), {"q": "small top"}), str(self.theirs.pk)
        )

    def test_append_only(self):
        entry = record(self.job, "note", "first", self.anna)
        entry.text = "second"
        with self.assertRaises(TypeError):
            entry.save()

    def test_every_change_is_in_it_with_who_and_when(self):
        self.rename(self.job, "Renamed")
        entry = self.job.book.first()
        self.assertEqual((entry.kind, entry.text, entry.author), ("change", "renamed", self.anna))
        self.assertEqual(entry.revision.number, 2)
        page = self.client.get(reverse("book", args=[self.job.pk]))
        self.assertContains(page, "renamed")
        self.assertNotContains(
            self.client.get(reverse("book", args=[self.job.pk]) + "?kind=note"), ">renamed<"
        )

    def test_notes_by_hand(self):
        address = reverse("book", args=[self.job.pk])
        self.assertRedirects(
            self.client.post(address, {"text": "looks better\nin the lamp"}), address
        )
        self.assertEqual(Entry.objects.filter(kind="note").get().text, "looks better\nin the lamp")
        self.assertContains(
            self.client.post(address, {"text": "  "}), "Write something", status_code=400
        )
        long = self.client.post(address, {"text": "x" * 9000})
        self.assertContains(long, "x" * 9000, status_code=400)

    def test_many_lines_come_in_pages(self):
        for k in range(70):
            record(self.job, "note", f"line {k}", self.anna)
        address = reverse("book", args=[self.job.pk])
        self.assertContains(self.client.get(address), "line 69")
        self.assertNotContains(self.client.get(address), "line 3<")
        self.assertContains(self.client.get(address + "?page=2"), "line 3<")
        self.assertEqual(self.client.get(address + "?page=zebra").status_code, 200)

    def test_colours_in_everyday_words(self):
        for colour, words in (("#7f9bb3", "blue"), ("#2b3a55", "navy blue"), ("#fbf7ec", "cream white"),
                              ("#ffffff", "white"), ("#111111", "black"), ("#888888", "grey"),
                              ("#a63a2b", "red"), ("#2e7566", "teal turquoise"), ("#6f8a5a", "green"),
                              ("#9a5b2e", "orange brown"), ("#d8b040", "yellow gold"),
                              ("#7a4fa0", "purple violet"), ("#d65f9a", "pink")):  # fmt: skip
            self.assertEqual(colour_words(colour), words, colour)
