//! Fixed point: every level is a whole number of millionths, so that what decides anything is integer arithmetic.

/// One, in millionths.
pub(crate) const ONE: i32 = 1_000_000;

/// The nearest number of millionths to `value`, half away from zero; `None` for NaN and infinities.
pub(crate) fn from_f64(value: f64) -> Option<i64> {
    if !value.is_finite() {
        return None;
    }
    Some(half_away(value) as i64)
}

/// One, and 2^-40 of it: that takes what lies in the middle of two whole numbers to the one away from zero, and nothing else
/// over it, as an f32 times a million lies in the middle or at least 2^-38 of itself beside it.
const ONE_AND_A_HAIR: f64 = ONE as f64 * (1.0 + 1.0 / (1u64 << 40) as f64);
/// Here a float's last place is 1, so that a sum with it is rounded to the nearest whole number, which its lowest bits are.
const WHOLE_PLACES: f64 = 1.5 * (1u64 << 52) as f64;

/// The same of a level that is at most one either way.
#[inline(always)]
pub(crate) fn within(value: f32) -> i32 {
    (f64::from(value) * ONE_AND_A_HAIR + WHOLE_PLACES).to_bits() as i32
}

/// Half a millionth further from 0, so that cutting it off rounds.
#[inline(always)]
fn half_away(value: f64) -> f64 {
    let scaled = value * f64::from(ONE);
    scaled + 0.5f64.copysign(scaled)
}

/// The level as a float for the game; nothing inside ever reads it back.
pub(crate) fn to_f32(micro: i32) -> f32 {
    (f64::from(micro) / f64::from(ONE)) as f32
}

/// The whole length of a pair, rounded down.
#[inline]
pub(crate) fn length(x: i32, y: i32) -> i32 {
    // Straight ones need no root.
    if x == 0 || y == 0 {
        return (x | y).saturating_abs();
    }
    let (x, y) = (i64::from(x), i64::from(y));
    // Two i32 squares add up to less than 2^63, and the root fits.
    let square = (x * x + y * y) as u64;
    if square < 1 << 50 {
        // Exact in a float, whose root is rounded right; below 2^25 no root lies so near the next whole number that
        // rounding could reach it. Three times as fast as whole numbers.
        return libm::sqrt(square as f64) as i32;
    }
    square.isqrt() as i32
}

/// The same of a pair of levels, each at most one either way.
#[inline(always)]
pub(crate) fn length_of_levels(x: i32, y: i32) -> i32 {
    debug_assert!(x.abs() <= ONE && y.abs() <= ONE, "{x}, {y}");
    libm::sqrt(square(x, y) as f64) as i32
}

/// The square of a pair's length.
#[inline(always)]
pub(crate) fn square(x: i32, y: i32) -> i64 {
    i64::from(x) * i64::from(x) + i64::from(y) * i64::from(y)
}

/// Whether a pair is at least this long; without a root.
#[inline]
pub(crate) fn reaches(x: i32, y: i32, size: i32) -> bool {
    square(x, y) >= square(size, 0)
}

/// `value × part / whole`, rounded towards zero, of a value that is not larger than the whole, and a part of at most 2.
#[inline(always)]
pub(crate) fn share(value: i32, part: i32, whole: i32) -> i32 {
    debug_assert!(value.abs() <= whole && part.abs() <= 2 * ONE, "{value} × {part} / {whole}");
    // Exact, as in `scale`: the product is below 2^53, and the outcome no larger than the part.
    ((i64::from(value) * i64::from(part)) as f64 / f64::from(whole)) as i32
}

/// `value × part / whole`, rounded towards zero: a vector scaled so never grows past `part`.
#[inline]
pub(crate) fn scale(value: i32, part: i32, whole: i32) -> i32 {
    let product = i64::from(value) * i64::from(part);
    let quotient = product as f64 / f64::from(whole);
    if product.unsigned_abs() < 1 << 53 && quotient.abs() < f64::from(1 << 21) {
        // Exact: below 2^21 a float's last place is 2^-32, and no quotient by less than 2^31 lies so near the next whole
        // number without being it. Half the time of whole numbers.
        return quotient as i32;
    }
    (product / i64::from(whole)) as i32
}

/// The pair shortened to a length of at most one; its direction stays.
#[inline]
pub(crate) fn within_one(x: i32, y: i32) -> (i32, i32) {
    // By the square: a length rounded down to exactly one may hide a hair more.
    if square(x, y) <= square(ONE, 0) { (x, y) } else { shortened(x, y) }
}

#[inline(never)]
fn shortened(x: i32, y: i32) -> (i32, i32) {
    if square(x, y) < square(ONE + 1, 0) {
        // A hair more than one, as nearly all are: no root, and a division by what is known.
        let short = |value: i32| (i64::from(value) * i64::from(ONE) / i64::from(ONE + 1)) as i32;
        return (short(x), short(y));
    }
    let size = length(x, y);
    (share(x, ONE, size + 1), share(y, ONE, size + 1))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rounding_is_half_away_from_zero_and_refuses_what_is_no_number() {
        assert_eq!(from_f64(0.71), Some(710_000));
        assert_eq!(from_f64(f64::from(0.71_f32)), Some(710_000));
        assert_eq!(from_f64(-0.000_000_5), Some(-1));
        assert_eq!((from_f64(f64::NAN), from_f64(f64::INFINITY)), (None, None));
    }

    #[test]
    fn levels_are_rounded_as_any_number_is() {
        let mut dice = fastrand::Rng::with_seed(5);
        let mut halves = 0;
        for round in 0..2_000_000 {
            let value = match round % 4 {
                // In the middle of two millionths lie these alone.
                0 => dice.i32(-64..64) as f32 / 64.0 + 1.0 / 128.0,
                1 => (f64::from(dice.i32(-ONE..ONE)) + 0.5) as f32 / ONE as f32,
                2 => f32::from_bits(dice.u32(..) % 0x3f80_0001) * if dice.bool() { 1.0 } else { -1.0 },
                _ => dice.f32() * 2.0 - 1.0,
            };
            let exact = f64::from(value) * f64::from(ONE);
            assert_eq!(Some(i64::from(within(value))), from_f64(f64::from(value)), "{value}");
            halves += i32::from((exact - exact.trunc()).abs() == 0.5);
        }
        assert!(halves > 400_000, "{halves} lay in the middle");
        assert_eq!([0.0, -0.0, 1.0, -1.0, f32::MIN_POSITIVE].map(within), [0, 0, ONE, -ONE, 0]);
    }

    #[test]
    fn short_ways_give_what_long_ways_give() {
        let mut dice = fastrand::Rng::with_seed(61);
        let mut shortened_by_a_hair = 0;
        for _ in 0..200_000 {
            let [x, y] = [(); 2].map(|()| dice.i32(-ONE..=ONE));
            assert_eq!(length_of_levels(x, y), length(x, y), "{x}, {y}");
            let (size, part) = (length(x, y).max(1), dice.i32(0..=ONE));
            assert_eq!(share(x, part, size), scale(x, part, size), "{x} × {part} / {size}");
            // About the circle of one, where rounding decides.
            let angle = dice.f64() * core::f64::consts::TAU;
            let edge = f64::from(ONE + dice.i32(-1..=2));
            let (x, y) = ((angle.cos() * edge).round() as i32, (angle.sin() * edge).round() as i32);
            if square(x, y) > square(ONE, 0) {
                let size = length(x, y);
                assert_eq!(within_one(x, y), (scale(x, ONE, size + 1), scale(y, ONE, size + 1)), "{x}, {y}");
                shortened_by_a_hair += usize::from(size == ONE);
            }
        }
        assert!(shortened_by_a_hair > 10_000, "{shortened_by_a_hair}");
    }

    #[test]
    fn lengths_are_whole_roots_rounded_down_to_the_last_one() {
        for root in [1i64, 7, 999, 707_106, 999_999, 1_414_213, 20_000_000, 33_554_431] {
            for (square, wanted) in [(root * root, root), (root * root - 1, root - 1), (root * root + 1, root)] {
                // Any square that is a sum of two will do: take the parts that give it where they exist.
                let x = (square as u64).isqrt() as i64;
                let y = ((square - x * x) as u64).isqrt() as i64;
                let exact = ((x * x + y * y) as u64).isqrt() as i64;
                assert_eq!(i64::from(length(x as i32, y as i32)), exact, "{square} near {wanted}");
                for size in [(exact - 1).max(0), exact, exact + 1] {
                    assert_eq!(reaches(x as i32, y as i32, size as i32), exact >= size, "{square} to {size}");
                }
            }
        }
        assert_eq!(length(1_500_000_000, -1_500_000_000), 2_121_320_343);
    }

    #[test]
    fn scaling_is_whole_division_to_the_last_one() {
        let mut dice = fastrand::Rng::with_seed(21);
        let mut near = 0;
        for round in 0..400_000 {
            let span = [2_000, 2 * ONE, i32::MAX][round % 3];
            let (part, whole) = (dice.i32(1..span), dice.i32(1..=span - 1));
            // As near below a whole number, and above one, as it gets.
            let value = match round % 4 {
                0 => dice.i32(-span + 1..span),
                _ => (i64::from(whole) * dice.i64(1..5_000) / i64::from(part)) as i32 - dice.i32(0..2),
            };
            let exact = i128::from(value) * i128::from(part) / i128::from(whole);
            let Ok(exact) = i32::try_from(exact) else { continue };
            assert_eq!(scale(value, part, whole), exact, "{value} × {part} / {whole}");
            near += i32::from(i128::from(value) * i128::from(part) % i128::from(whole) == i128::from(whole) - 1);
        }
        assert!(near > 100, "{near} were as near as it gets");
    }

    #[test]
    fn no_pair_stays_longer_than_one() {
        for (x, y) in [(ONE, ONE), (-ONE, ONE), (ONE, 0), (999_999, 1_500), (800_000, 700_000)] {
            let (a, b) = within_one(x, y);
            let square = i64::from(a) * i64::from(a) + i64::from(b) * i64::from(b);
            assert!(square <= 1_000_000_000_000, "{x},{y} became {a},{b}");
            assert!(length(a, b) >= 999_998 || (a, b) == (x, y));
        }
    }
}
