"""The page of a robot that is broken, until it is mended."""

import unittest

from tests.browser import SEEN, Window, serve
from tests.support import folder_for

BROKEN = """\
mooring: 1
name: davit
links:
  post: {box: [0.2, 0.2, 1.0], mass: 20 kg}
  arm: {box: [1.0, 0.1, 0.1], mass: 8 kg}
  hook: {box: [0.1, 0.1, 0.2], mass: 2 kg}
joints:
  swing: {type: revolute, parent: post, child: arm, at: {xyz: [0.5, 0, 0.6]}, axis: z,
          limits: {lower: -1, upper: 1, effort: 100, velocity: 1}}
"""
MENDED = BROKEN + "  hang: {type: fixed, parent: arm, child: hook, at: {xyz: [0.4, 0, -0.2]}}\n"


class Broken(unittest.TestCase):
    def test_a_robot_that_is_no_tree_and_a_file_that_is_no_document(self) -> None:
        folder = folder_for(self)
        for name, text, words, found in (
            ("roots.yaml", BROKEN, "link 'hook' hangs on nothing", "multiple-roots"),
            ("half.yaml", BROKEN + "  oops", "it is followed until it is mended", "unreadable"),
        ):
            with self.subTest(name):
                file = folder / name
                file.write_text(text)
                page = Window(self, serve(type(self), file))
                page.until(lambda page=page, words=words: words in page.text(".m-banner"), words)
                page.until(
                    lambda page=page: (
                        "1 error" in page.text(".m-head-bar")
                        or "cannot be read" in page.text(".m-head-bar")
                    ),
                    "a judgement",
                )
                self.assertNotIn("sound", page.text(".m-head-bar"))
                page.click("Findings")
                page.until(
                    lambda page=page: (
                        "mend it" in page.text(".m-finding") or "hook" in page.text(".m-finding")
                    ),
                    found,
                )
                page.click("Play")
                page.until(
                    lambda page=page: "mend the document" in page.text(".q-notification"),
                    "no simulation",
                )
                file.write_text(MENDED)
                page.until(
                    lambda page=page: (
                        "hang" in page.text(".m-chain") and not page.text(".m-banner")
                    ),
                    "the mended robot",
                )
                page.until(
                    lambda page=page: (
                        page.js("return mooring.stage.model.links.size") == 3 and page.js(SEEN)
                    ),
                    "all of it",
                )
                # A hundred saves, faster than anybody reads, half of them of no document at all.
                for number in range(100):
                    file.write_text(MENDED[: number * len(MENDED) // 100] if number % 2 else BROKEN)
                file.write_text(MENDED.replace("hang", "swings"))
                page.until(
                    lambda page=page: (
                        "swings" in page.text(".m-chain") and not page.text(".m-banner")
                    ),
                    "the last of them",
                )
                self.assertEqual([c for c in page.complaints() if "favicon" not in c], [])


if __name__ == "__main__":
    unittest.main()
