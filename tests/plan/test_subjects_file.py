"""Files of subjects: CSV and JSON, boxes and points, fractions and px."""

from pathlib import Path

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.facts import NamedSubject
from sarvel.errors import MasterError, PlanError
from sarvel.plan.csv_rows import numbered_rows, text_of
from sarvel.plan.subjects_file import ImportedSubjects, read_subjects

BOX = Box(0.1, 0.2, 0.3, 0.4)


def read(folder: Path, text: str, name: str = "subjects.csv") -> ImportedSubjects:
    (folder / name).write_bytes(text.encode())
    return read_subjects(folder / name, ["pictures/masters", "/srv/site/pictures/masters"])


@pytest.mark.parametrize(
    ("text", "boxes", "sure"),
    [
        ("file,left,top,right,bottom\nboat.jpg,0.1,0.2,0.3,0.4\n", (BOX,), None),
        ("file,left,top,right,bottom\nboat.jpg,40,60,120,120\n", (BOX,), None),
        ("# by hand\n\nFile; Left; Top; Right; Bottom; label\r\nboat.jpg;0.1;0.2;0.3;0.4;ship\r\n", (BOX,), None),
        ("\ufefffile\tx\ty\nboat.jpg\t0.25\t0.5\n", (Box(0.25, 0.5, 0.25, 0.5),), None),
        ("file,x,y\nboat.jpg,100,150\n", (Box(0.25, 0.5, 0.25, 0.5),), None),
        ("file,left,top,right,bottom,x,y\nboat.jpg,,,,,0.25,0.5\n", (Box(0.25, 0.5, 0.25, 0.5),), None),
        ("file,x,y\nboat.jpg,0,1\n", (Box(0, 1, 0, 1),), None),
        ("file,x,y\nboat.jpg,400,0\n", (Box(1, 0, 1, 0),), None),
        ("file,left,top,right,bottom\npictures/masters/boat.jpg,0.1,0.2,0.3,0.4\n", (BOX,), None),
        ("file,left,top,right,bottom\n/srv/site/pictures/masters/boat.jpg,0.1,0.2,0.3,0.4\n", (BOX,), None),
        ("file,left,top,right,bottom\npictures\\masters\\boat.jpg,0.1,0.2,0.3,0.4\n", (BOX,), None),
        ("file,left,top,right,bottom\nboat.jpg,-0.02,0.2,1.02,0.4\n", (Box(0, 0.2, 1, 0.4),), None),
        # The surest comes first, in any order of rows; what is less sure than a guess may be is left out.
        (
            "file,left,top,right,bottom,sure\nboat.jpg,0.5,0.5,1,1,0.6\nboat.jpg,0.1,0.2,0.3,0.4,0.93\nboat.jpg,0,0,1,1,0.2\n",
            (BOX, Box(0.5, 0.5, 1, 1)),
            0.93,
        ),
        ("file,left,top,right,bottom,sure\nboat.jpg,0,0,0.5,1,0.2\n", None, None),
        ("file,left,top,right,bottom\nother.jpg,0,0,0.5,1\n", None, None),
        ("file,left,top,right,bottom\nboat.jpg,0,0,1,1\n", (), None),  # all of it: crops are centred, and lose nothing
        ('[{"file": "boat.jpg", "left": 0.1, "top": 0.2, "right": 0.3, "bottom": 0.4, "sure": 0.7}]', (BOX,), 0.7),
        ('[{"file": "boat.jpg", "x": 0.25, "y": "0.5"}]', (Box(0.25, 0.5, 0.25, 0.5),), None),
    ],
)
def test_what_a_row_names(tmp_path: Path, text: str, boxes: tuple[Box, ...] | None, sure: float | None) -> None:
    named = read(tmp_path, text).of("boat.jpg", 400, 300)
    if boxes is None:
        assert named is None
        return
    assert isinstance(named, NamedSubject) and (named.by, named.sure) == ("import", sure)
    assert [(one.left, one.top, one.right, one.bottom) for one in named.boxes] == [
        pytest.approx((one.left, one.top, one.right, one.bottom)) for one in boxes
    ]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (
            "",
            ":1: no column file, left, top, right, bottom; begin with the line file,left,top,right,bottom or file,x,y",
        ),
        ("file,lef,top,right,bottom\n", ":1: no column left; did you mean 'left'?"),
        ("file,left,top,right,bottom\na.jpg,0.1,0.2,0.3\n", ":2: bottom: got nothing; write a number"),
        ("file,x,y\n\na.jpg,0.1,nan\n", ":3: y: got 'nan'; write a number"),
        ("file,left,top,right,bottom\na.jpg,0.5,0.2,0.3,0.4\n", ":2: left is not less than right"),
        ("file,x,y,sure\na.jpg,0.1,0.2,80%\n", ":2: sure: got '80%'; write a number"),
        ("file,x,y,sure\na.jpg,0.1,0.2,80\n", ":2: sure: got 80; write a share from 0 to 1"),
        ("[1]", ": item 1: names no file; write the path of a master"),
        ('[{"file": "a.jpg", "x": 0.1}]', ": item 1: y: got nothing"),
        ("x,y,file\n0.1,0.2\n", ":2: names no file; write the path of a master"),
        ("{}", ": is no list"),
        ("[{", ": is no JSON"),
    ],
)
def test_faults_tell_their_line(tmp_path: Path, text: str, says: str) -> None:
    with pytest.raises(PlanError) as caught:
        read(tmp_path, text)
    assert str(caught.value).startswith(f"{tmp_path / 'subjects.csv'}{says}")


def test_a_box_outside_is_a_fault_of_its_master(tmp_path: Path) -> None:
    subjects = read(tmp_path, "file,left,top,right,bottom\nboat.jpg,4000,10,4200,90\n")
    assert subjects.of("boat.jpg", 8000, 6000)
    with pytest.raises(MasterError, match=r"csv:2: lies outside of boat.jpg, which has 400×300 px; write fractions"):
        subjects.of("boat.jpg", 400, 300)


def test_rows_know_their_lines(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_bytes('# a remark\n\n\na;b\n1;"2\n3"\n4;5'.encode("utf-16"))
    text = text_of(tmp_path / "a.csv", "site.subjects")
    assert list(numbered_rows(tmp_path / "a.csv", text)) == [(4, ["a", "b"]), (6, ["1", "2\n3"]), (7, ["4", "5"])]


def test_a_file_that_is_not_there(tmp_path: Path) -> None:
    with pytest.raises(PlanError, match=r"mend site\.subjects or the file"):
        read_subjects(tmp_path / "none.csv", ["masters"])
