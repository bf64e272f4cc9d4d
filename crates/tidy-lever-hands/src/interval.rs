//! How sure a share is that was counted.

/// The 95 % quantile on either side of a normal distribution.
const Z: f64 = 1.959_963_984_540_054;

/// Between which shares the true one lies, with 95 % confidence, where `found` of `all` were counted (Wilson, *Probable
/// Inference, the Law of Succession, and Statistical Inference*, 1927). Nothing counted says nothing: 0 to 1.
///
/// ```
/// let (low, high) = tidy_lever_hands::interval(95, 100);
/// assert!((low - 0.888).abs() < 0.001 && (high - 0.978).abs() < 0.001);
/// assert_eq!(tidy_lever_hands::interval(0, 0), (0.0, 1.0));
/// ```
pub fn interval(found: u64, all: u64) -> (f64, f64) {
    if all == 0 {
        return (0.0, 1.0);
    }
    let (all, share) = (all as f64, found as f64 / all as f64);
    let middle = share + Z * Z / (2.0 * all);
    let half = Z * libm::sqrt(share * (1.0 - share) / all + Z * Z / (4.0 * all * all));
    let whole = 1.0 + Z * Z / all;
    // Nothing beyond what was counted.
    let low = if found == 0 { 0.0 } else { (middle - half) / whole };
    let high = if share >= 1.0 { 1.0 } else { (middle + half) / whole };
    (low.max(0.0), high.min(1.0))
}
