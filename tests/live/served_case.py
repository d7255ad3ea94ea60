"""What the tests of the live page's protocol share: a served page and its stream, gone after each test."""
import os
import sys
import unittest

from serve import Served, Stream

TOOL, ROOT = sys.argv[1:3]
DEMO = os.path.join(ROOT, "demo", "apiary")


class ServedCase(unittest.TestCase):
    def serve(self, file="keeper.yaml", *more, **options):
        served = Served(TOOL, DEMO, file, *more, **options)
        self.addCleanup(served.close)
        stream = Stream(served)
        self.addCleanup(stream.close)
        stream.wait("now")
        return served, stream
