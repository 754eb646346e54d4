"""Blind spots: found where data cannot tell, closed by rows, and none that changes nothing."""

from jentrow.core.exercises.distinguishing.blind_spots import sight_of
from jentrow.core.exercises.distinguishing.made_to_measure import made_to_measure
from jentrow.core.exercises.distinguishing.smallest_example import smallest_example
from tests.core.exercises.distinguishing.benches import CORPUS, laboratory


def spots(lab) -> set[tuple[str, str]]:
    return {(one.old, one.new) for one in sight_of(lab.bench, lab.run).blind_spots}


def test_a_boundary_without_a_row_on_it_is_a_blind_spot(engine):
    lab = laboratory(engine, "huts", "SELECT name FROM huts WHERE beds > 50")
    sight = sight_of(lab.bench, lab.run)
    (spot,) = [one for one in sight.blind_spots if one.new == ">="]
    assert spot.kind == "comparison"
    assert (spot.line, spot.column) == (1, 34)
    assert spot.sql == "SELECT name FROM huts WHERE beds >= 50"
    assert "`>=` instead of `>`" in spot.message
    assert spot.usual
    assert sight.seen == sight.edits - len(sight.blind_spots)
    assert [one.dataset for one in sight.told_apart] == list(lab.measure.dataset_names)


def test_a_boundary_with_a_row_on_it_is_none(engine):
    lab = laboratory(engine, "huts", "SELECT name FROM huts WHERE beds > 20")
    assert (">", ">=") not in spots(lab)


def test_edits_that_change_nothing_are_not_reported(engine):
    lab = laboratory(
        engine,
        "huts",
        "SELECT s.stay_id, h.name FROM stays s JOIN huts h ON h.hut_id = s.hut_id ORDER BY s.stay_id",
    )
    found = spots(lab)
    assert ("", "DISTINCT ") not in found
    assert ("JOIN", "LEFT JOIN") not in found


def test_the_example_of_a_blind_spot_shows_it(engine):
    lab = laboratory(engine, "huts", "SELECT name FROM huts WHERE beds > 50")
    example = smallest_example(lab.bench, "SELECT name FROM huts WHERE beds >= 50")
    assert example is not None
    assert example.row_count == 1
    assert example.tables[0].rows[0][-1] == 50
    assert (len(example.expected.rows), len(example.actual.rows)) == (0, 1)


def test_datasets_made_to_measure_see_nearly_all_and_are_the_same_each_time(engine):
    told = edits = 0
    for at, entry in enumerate(CORPUS[::12]):
        lab = laboratory(engine, entry["sample"], entry["reference"])
        made = made_to_measure(lab.bench)
        if at == 0:
            again = laboratory(engine, entry["sample"], entry["reference"])
            assert made_to_measure(again.bench).datasets == made.datasets
        assert 1 <= len(made.datasets) <= 6
        told, edits = told + made.told, edits + made.edits
    assert told >= 0.95 * edits


def test_an_alternative_is_no_blind_spot(engine):
    reference, other = (f"SELECT name FROM huts WHERE beds {sign} 50" for sign in (">", ">="))
    lab = laboratory(engine, "huts", reference, alternatives=(other,))
    assert (">", ">=") not in spots(lab)
