"""What docstrings show comes out as they show it."""

import doctest
import importlib
import pkgutil
from unittest import TestCase

import chorograph_core


class DocstringTests(TestCase):
    def test_every_example_holds(self):
        tried = 0
        for module in pkgutil.walk_packages(chorograph_core.__path__, "chorograph_core."):
            if ".tests" in module.name or module.name.endswith("__main__"):
                continue
            told: list[str] = []
            with self.subTest(module.name):
                read = importlib.import_module(module.name)
                runner = doctest.DocTestRunner(verbose=False)
                for example in doctest.DocTestFinder().find(read, module.name):
                    runner.run(example, out=told.append)
                tried += runner.tries
                self.assertEqual("".join(told), "")
        self.assertGreater(tried, 40)
