// Every tolerance of the product, with its reason. Millimetres unless the name says otherwise.
#pragma once

namespace lp::tolerance {

/// Two numbers of a model closer than this are the same: a hundredth of what any filament printer resolves.
inline constexpr double same_mm = 1e-4;
/// Chord error of meshes made for measuring and export: below the smallest printed detail by a factor of ten.
inline constexpr double export_deflection_mm = 0.01;
/// Chord error of meshes made for the screen: under a pixel at the usual zoom, and quick to make.
inline constexpr double display_deflection_mm = 0.02;
/// Largest angle between neighbouring normals of a curved face, so that small rounds stay round.
inline constexpr double display_angle_rad = 0.25;
/// A vertex this close to the lowest point lies on the bed (cli.md, overhang rule).
inline constexpr double on_bed_mm = 0.01;
/// A measured gap this near the wanted one is as wanted: twice the chord error of two curved faces.
inline constexpr double gap_right_mm = 0.025;
/// Below this two bodies touch: they fuse in any print.
inline constexpr double touching_mm = 0.002;
/// Overlap smaller than this is rounding of facets, not material in two places.
inline constexpr double overlap_mm3 = 1e-3;
/// Relative volume error that a verified boolean may show (architecture.md: to 2e-3).
inline constexpr double boolean_volume = 2e-3;
/// Fuzzy value for exact booleans: a gap of 1e-5 would leave two solids (architecture.md).
inline constexpr double boolean_fuzzy_mm = 1e-4;
/// Largest coordinate taken from a file or a field: ten times a long extrusion, far below where doubles hurt.
inline constexpr double largest_mm = 1e5;
/// Smallest dimension a solid may have: thinner than any layer, and safe for the kernel.
inline constexpr double smallest_mm = 1e-3;

} // namespace lp::tolerance
