// What bends when a snap or a clip is closed, or a thin web folded: strains and forces of beams, small strains.
#pragma once

namespace lp {

/// A beam held at one end. Its thickness falls evenly from the root to the tip.
struct BendingBeam {
    double length_mm = 15, thick_mm = 2, wide_mm = 6; ///< thick and wide at the root
    double tip_share = 1;                             ///< thickness of the tip over that of the root, 0.5 to 1
    double modulus_mpa = 2000;

    /// Greatest strain, at the root, when the tip is pushed aside by this: 3 h y / (2 L²) for an even beam
    /// (reference/tables.md 11); of a tapered one by integrating M / EI along it.
    double strain_at(double aside_mm) const;
    /// Newton at the tip: b h² E strain / (6 L).
    double force_n(double aside_mm) const;
    /// The shortest that keeps the strain.
    double length_for(double aside_mm, double strain) const;
};

/// A bent beam: a thin ring of mean radius R from its root, at `from` radians, to its tip at `to`, seen from the
/// middle. Opened across the line through the middle at angle 0, by a force at its tip (Castigliano's theorem; a ring
/// slit at one place opens by 3 pi F R³ / EI: Timoshenko, Strength of Materials, from memory).
struct BendingArc {
    double radius_mm = 6, thick_mm = 2, wide_mm = 8;
    double from = 0, to = 2;
    double modulus_mpa = 2000;

    double strain_at(double aside_mm) const; ///< at the root
    double force_n(double aside_mm) const;

  private:
    double compliance() const; ///< integral of (cos b - cos to)²
};

/// Strain of a web bent evenly: half its thickness times the angle (radians), over its length.
double web_strain(double thick_mm, double length_mm, double angle);

/// What pushes a hook in along its beam: F (mu + tan a) / (1 - mu tan a), `slope` being a, radians, measured from the
/// way it is pushed (tables.md 11). Nothing finite where it jams: then infinity.
double mating_force(double force_n, double slope);
inline constexpr double sliding_friction = 0.3; ///< plastic on plastic; common practice, no published source

} // namespace lp
