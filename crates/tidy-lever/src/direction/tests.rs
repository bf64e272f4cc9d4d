use super::*;
use crate::fixed::ONE;

fn compass(four: bool, sectors: Sectors) -> Compass {
    Compass { four, sectors, down_at: 550_000, up_at: 450_000 }
}

/// A unit vector in millionths.
fn at(degrees: f64) -> (i32, i32) {
    let (sin, cos) = degrees.to_radians().sin_cos();
    ((cos * f64::from(ONE)).round() as i32, (sin * f64::from(ONE)).round() as i32)
}

#[test]
fn every_hundredth_of_a_degree_lies_in_the_nearest_of_eight() {
    let compass = compass(false, Sectors::Equal);
    for step in 0..36_000 {
        let degrees = f64::from(step) / 100.0;
        let (x, y) = at(degrees);
        let nearest = Direction::ALL[(((degrees + 22.5) / 45.0) as usize) % 8];
        let on_border = ((degrees + 22.5) % 45.0).abs() < 1e-9;
        let read = compass.read(x, y, None).expect("every angle is some direction");
        assert!(on_border || read == nearest, "{degrees}: {read}");
    }
}

#[test]
fn every_hundredth_of_a_degree_lies_in_the_nearest_of_four() {
    let compass = compass(true, Sectors::Equal);
    for step in 0..36_000 {
        let degrees = f64::from(step) / 100.0;
        let (x, y) = at(degrees);
        let nearest = Direction::ALL[(((degrees + 45.0) / 90.0) as usize) % 4 * 2];
        let read = compass.read(x, y, None).expect("every angle is some direction");
        assert!(step % 9_000 == 4_500 || read == nearest, "{degrees}: {read}");
    }
}

#[test]
fn all_corners_of_the_square_are_diagonals_and_the_middle_is_none() {
    for sectors in [Sectors::Equal, Sectors::Box] {
        let compass = compass(false, sectors);
        for (x, y, name) in [(1, 1, "up-right"), (-1, 1, "up-left"), (-1, -1, "down-left"), (1, -1, "down-right")] {
            assert_eq!(compass.read(x * ONE, y * ONE, None).map(Direction::name), Some(name));
        }
        for (x, y, name) in [(1, 0, "right"), (0, 1, "up"), (-1, 0, "left"), (0, -1, "down")] {
            assert_eq!(compass.read(x * ONE, y * ONE, None).map(Direction::name), Some(name));
        }
        assert_eq!(compass.read(0, 0, Some(Up)), None);
    }
}

#[test]
fn noise_on_a_border_does_not_chatter() {
    for (four, borders) in [(false, 8), (true, 4)] {
        let compass = compass(four, Sectors::Equal);
        for border in 0..borders {
            let middle = (f64::from(border) + 0.5) * 360.0 / f64::from(borders);
            let mut stands = None;
            let mut changes = 0;
            for sample in 0..1_000 {
                // Three degrees of noise either way, in a fixed pattern.
                let noise = f64::from(sample * 7_919 % 61) / 10.0 - 3.0;
                let (x, y) = at(middle + noise);
                let read = compass.read(x, y, stands);
                changes += i32::from(stands.is_some() && read != stands);
                stands = read;
            }
            assert_eq!(changes, 0, "border {border} of {borders}");
            let (x, y) = at(middle + 5.0);
            let beyond = compass.read(x, y, stands);
            let (x, y) = at(middle - 5.0);
            assert_ne!(beyond, compass.read(x, y, beyond), "well beyond a border it does change");
        }
    }
}

#[test]
fn the_edge_of_the_dead_zone_does_not_chatter_either() {
    let compass = compass(false, Sectors::Equal);
    assert_eq!(compass.read(39_999, 0, None), None);
    assert_eq!(compass.read(40_000, 0, None), Some(Right));
    assert_eq!(compass.read(1, 0, Some(Right)), Some(Right));
}

#[test]
fn box_sectors_go_by_each_axis_with_hysteresis() {
    let compass = compass(false, Sectors::Box);
    assert_eq!(compass.read(540_000, 0, None), None);
    assert_eq!(compass.read(900_000, 549_999, None), Some(Right));
    assert_eq!(compass.read(900_000, 550_000, Some(Right)), Some(UpRight));
    assert_eq!(compass.read(900_000, 450_001, Some(UpRight)), Some(UpRight));
    assert_eq!(compass.read(900_000, 450_000, Some(UpRight)), Some(Right));
}
