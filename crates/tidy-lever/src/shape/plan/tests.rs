use super::*;

#[test]
fn levels_are_stretched_as_whole_division_has_it_to_the_last_one() {
    let mut dice = fastrand::Rng::with_seed(17);
    let mut levels = 0;
    for round in 0..400_000 {
        let dead = if round % 3 == 0 { dice.i32(0..20) } else { dice.i32(0..ONE) };
        let full = if round % 5 == 0 { ONE } else { dice.i32(dead + 1..=ONE) };
        let plan = ShapePlan { dead, full, stretch: stretch(dead, full), ..ShapePlan::plain() };
        // As near to either end as it gets, now and then.
        let level = match round % 4 {
            0 => dead + 1,
            1 => full - 1,
            _ => dice.i32(dead..=full),
        };
        let whole = |level: i32| i64::from(level - dead).max(0) * i64::from(ONE) / i64::from(full - dead);
        assert_eq!(i64::from(plan.past_dead(level)), whole(level), "{level} of {dead} to {full}");
        assert_eq!(plan.past_dead(-level), -plan.past_dead(level));
        levels += i32::from(dead < level && level < full);
    }
    assert!(levels > 100_000, "{levels} lay between");
}

#[test]
fn a_dead_zone_of_any_size_is_a_fault_and_no_more() {
    for dead in [2_147.483_647, 1e9, 1e300, -1e300, f64::INFINITY, f64::NAN] {
        let mut faults = 0;
        let _ = ShapePlan::build(&Shape::default().dead(dead), |key, _| faults += i32::from(key == "dead"));
        assert_eq!(faults, 1, "{dead}");
    }
}
