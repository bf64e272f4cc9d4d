//! The town: where there is quay, where water, and what stands about. Metres; x along the quay, y up, z towards the viewer.

/// How long the town is.
pub(crate) const LENGTH: f32 = 40.0;
/// The quay reaches from the houses to the water's edge.
pub(crate) const BACK: f32 = -4.0;
pub(crate) const EDGE: f32 = 0.0;
/// The canal that cuts it in two.
pub(crate) const CANAL: (f32, f32) = (17.5, 22.5);
/// The water's surface, beneath the quay, and how far out it reaches.
pub(crate) const SURFACE: f32 = -0.7;
pub(crate) const OUT: f32 = 4.2;
/// Where Pim begins, and a second otter.
pub(crate) const STARTS: [(f32, f32); 2] = [(5.0, -1.8), (6.6, -2.6)];
/// The post office's back door.
pub(crate) const DOOR: f32 = 2.6;
/// Letter boxes: a parcel that comes to rest beside one is delivered.
pub(crate) const BOXES: [(f32, f32); 3] = [(14.5, -2.0), (25.5, -1.4), (35.0, -2.6)];
pub(crate) const BOX_REACH: f32 = 1.3;
pub(crate) const LAMPS: [f32; 6] = [1.0, 8.0, 15.6, 24.4, 30.0, 37.5];
/// Where the heron walks.
pub(crate) const HERON: (f32, f32, f32) = (9.0, 13.0, -1.8);
/// Where the punt lies.
pub(crate) const PUNT: (f32, f32) = (12.0, 1.0);

/// Whether there is quay under a place.
pub(crate) fn is_quay(x: f32, z: f32) -> bool {
    (BACK..=EDGE).contains(&z) && (0.0..=LENGTH).contains(&x) && !(CANAL.0 < x && x < CANAL.1)
}

/// The height of what is under a place: stone or water.
pub(crate) fn floor(x: f32, z: f32) -> f32 {
    if is_quay(x, z) { 0.0 } else { SURFACE }
}
