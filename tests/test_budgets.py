"""Files that would take ages, or the memory of the machine: refused at once, in a sentence."""

import unittest
from collections.abc import Callable
from pathlib import Path

import mooring
from mooring.errors import InputError
from tests.support import folder_for


def rows(count: int, row: str, between: str = "") -> str:
    return between.join(row.replace("#", str(number)) for number in range(count))


def fan(folder: Path) -> str:
    """Documents that include each other six at a time, twelve deep."""
    for level in range(1, 12):
        include = rows(6, f"  - {{file: fan{level + 1}.yaml, prefix: p#_, onto: b}}\n")
        text = "mooring: 1\nlinks: {b: {mass: 1}}\n" + (
            "" if level == 11 else f"include:\n{include}"
        )
        (folder / f"fan{level}.yaml").write_text(text)
    return "mooring: 1\nlinks: {b: {mass: 1}}\ninclude: {file: fan1.yaml, prefix: q_, onto: b}\n"


def loop(folder: Path) -> str:
    (folder / "loop.yaml").symlink_to("loop.yaml")
    return "mooring: 1\nlinks: {b: {mass: 1}}\ninclude: {file: loop.yaml, prefix: q_, onto: b}\n"


HEAD = "mooring: 1\nlinks: {b: {mass: 1}}\n"
DOCUMENTS: dict[str, tuple[str | Callable[[Path], str], str]] = {
    "a unit beyond all numbers": (HEAD + 'values: {a: "=1 kg^-200"}\n', "beyond all numbers"),
    "a power beyond all numbers": (HEAD + 'values: {a: "=9^9^9^9"}\n', "beyond all numbers|too large"),
    "a huge integer": (HEAD + f"values: {{a: {'9' * 400}}}\n", "more than 300 digits"),
    "a large integer": (HEAD + f"frames: {{f: {{link: b, xyz: [{'9' * 310}, 0, 0]}}}}\n", "more than 300"),
    "brackets": (f"mooring: 1\nlinks: {{b: {{points: {'[' * 3000}{']' * 3000}}}}}\n", "60 levels"),
    "brackets in an expression": (HEAD + f'values: {{a: "={"(" * 3000}1{")" * 3000}"}}\n', "400 char"),
    "merged into itself": ("mooring: 1\nlinks: &l\n  <<: *l\n  b: {mass: 1}\n", "refers to itself"),
    "many links": ("mooring: 1\nlinks:\n" + rows(100_000, "  l#: {mass: 1}\n"), "200,00. keys"),
    "many rows": (
        HEAD + f"chains: {{c: {{base: b, convention: standard, rows: [{rows(30_000, '{a: 0.1}', ', ')}]}}}}\n",
        "30,0.. keys",
    ),
    "fanned out": (fan, "more than 5,000 links"),
    "a circle of links": (loop, "no such file"),
    "NUL in a file": ('mooring: 1\ncad: [{file: "a\\0b.step"}]\nlinks: {b: {mass: 1}}\n', "code 0"),
    "NUL in an inclusion": (HEAD + 'include: {file: "a\\0b.yaml", onto: b}\n', "code 0"),
    "NUL in a mesh": ('mooring: 1\nlinks: {b: {visuals: [{mesh: "a\\0b.stl"}]}}\n', "code 0"),
}  # fmt: skip


class Budgets(unittest.TestCase):
    def test_documents_are_refused_with_the_budget(self) -> None:
        for name, (made, words) in DOCUMENTS.items():
            folder = folder_for(self)
            text = made(folder) if callable(made) else made
            (folder / "odd.yaml").write_text(text)
            with self.subTest(name), self.assertRaisesRegex(InputError, words):
                mooring.read(folder / "odd.yaml")

    def test_long_chains_are_no_recursion(self) -> None:
        links = rows(3000, '<link name="l#"><inertial><mass value="1"/><inertia ixx="1" ixy="0" ixz="0" iyy="1" iyz="0" izz="1"/></inertial></link>')  # fmt: skip
        joints = "".join(
            f'<joint name="j{n}" type="continuous"><parent link="l{n - 1}"/><child link="l{n}"/>'
            '<origin xyz="0.1 0 0"/><axis xyz="0 0 1"/></joint>'
            for n in range(1, 3000)
        )
        file = folder_for(self) / "chain.urdf"
        file.write_text(f'<robot name="chain">{links}{joints}</robot>')
        robot = mooring.read(file)
        tree = robot.tree()
        self.assertEqual(len(tree.coordinates), 2999)
        poses = mooring.kinematics.link_poses(tree, tree.neutral())
        self.assertAlmostEqual(poses[-1][0, 3], 299.9)
        other = robot.rerooted("l2999")
        self.assertEqual(other.tree().links[0], "l2999")
        robot.write(file.with_suffix(".svg"))
        self.assertEqual(len(robot.branch("l1500").links), 1500)


if __name__ == "__main__":
    unittest.main()
