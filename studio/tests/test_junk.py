"""Whatever is sent, nothing breaks: no address of charting answers with an error of ours, and the job
can be opened afterwards."""

import random

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from chorograph_core.chart import faults
from chorograph_core.tests import long
from studio.charting.tracing import begin
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.photos.keeping import keep_photo
from studio.tests.helpers import make_job, make_studio
from studio.tests.pictures import png
from studio.tests.test_blocks import keep

ROUNDS = 260
JUNK = [
    "", "0", "-1", "1", "1.5", "nan", "inf", "1e308", "9" * 400, "\0", "漢字", "'; drop", "<script>",
    "1/0", "3 3/8", "a,b", "1,1", "nan,nan", "1,1,s 2,2,c 3,1,s", "[]", "{}", "null", "own-0", "star",
    "letters", "leaf", "#ffffff", "1e9,1e9", "9999,9999,c 0,0,c 9999,0,s", "cell", "undo", "turn",
]  # fmt: skip
FIELDS = """
    what height turn mirror text fabric colour at nodes tool measure inwards place line name block
    size act row column piece draft past columns rows wedges shape count inner outer round_size tip
    way number corner x y fresh other x0 y0 x1 y1 likeness entry fit open_crossings of_job reading
    sure rows_text placed_text second_block layout block_size sashing border1 left top run
    instead school technique edges
""".split()  # noqa: SIM905
CHANGES = """
    sew unsew sewn pieced behind front name unname through place exchange cut free sew-drawing join
    part recolour school order unorder
""".split()  # noqa: SIM905
PANELS = """
    applique applique-look on-top place place-look chart chart-drawing cutter block-panel plan-leave
    plan-price
""".split()  # noqa: SIM905


class JunkTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)
        self.client.raise_request_exception = False
        self.job = make_job(self.studio, self.anna)
        photo = keep_photo(self.job, self.anna, SimpleUploadedFile("a.png", png()), "whole", "")
        tracing = begin(
            self.job, photo, [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)], self.anna
        )
        here = [self.job.pk]
        self.addresses = [
            *(
                reverse(n)
                for n in ("block-act", "block-round", "block-new", "preview-job", "new-job")
            ),
            reverse("block-item", args=[keep(self.studio).pk]),
            *(reverse(name, args=here) for name in PANELS),
            *(reverse("change", args=[*here, what]) for what in CHANGES),
            *(
                reverse("trace-change", args=[*here, tracing.pk, act])
                for act in ("touch", "drop", "drag", "part", "join", "undo")
            ),
        ]

    def now(self) -> Job:
        return Job.objects.select_related("head").get(pk=self.job.pk)

    @long
    def test_nothing_breaks(self):
        chance = random.Random(11)
        for number in range(ROUNDS):
            address = chance.choice(self.addresses)
            job = self.now()
            zones = [zone.id for zone in core_job(job).zones]
            data = {name: chance.choice(JUNK) for name in chance.sample(FIELDS, 9)}
            data |= {"base": str(job.head.number), "zones": ",".join(chance.sample(zones, 2))}
            if number % 2:
                # Half of it makes sense, so that it goes deeper and the top gets full of shapes.
                data |= {"height": "2", "turn": "30", "what": "bird", "fabric": "new", "nodes": "",
                         "colour": "#112233", "measure": "1/2", "tool": "inset", "block": "pinwheel",
                         "at": f"{chance.uniform(-1, 16):.2f},{chance.uniform(-1, 16):.2f}"}  # fmt: skip
            with self.subTest(address=address, data=data):
                self.assertLess(self.client.post(address, data).status_code, 500)
        core = core_job(self.now())
        self.assertGreater(self.now().head.number, 5)
        self.assertEqual([fault for fault in faults(core.chart) if fault.shape.area > 0.01], [])
        self.assertEqual(self.client.get(reverse("work", args=[self.job.pk])).status_code, 200)
