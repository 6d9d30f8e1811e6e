// Everything `inspect` tells about a mesh: soundness, size, overhang, standing; as numbers and as sentences.
#pragma once
#include "check/finding.h"
#include "check/walls.h"
#include "mesh/soundness.h"
#include <optional>
#include <string>

namespace lp {

struct InspectionOptions {
    Vec3 up = Vec3::UnitZ();
    double nozzle_mm = 0.4;
    double overhang_limit_deg = 45;
    Vec3 bed_mm{220, 220, 250};
    double min_gap_mm = 0.2;     ///< narrower gaps are closed by the print
    double bridge_limit_mm = 10; ///< roofs held at both ends may be as wide
    double brim_mm = 0;          ///< round what lies on the bed
    bool self_intersections = true;
    bool walls = false; ///< and gaps are measured too: the dearest of all
};

/// What walls add to an inspection.
struct WallFacts {
    std::optional<double> least_mm;     ///< none when nothing lies opposite anything
    double thin_area_mm2 = 0;           ///< with walls thinner than two nozzles
    std::optional<Finding> thin;        ///< where some are
    std::optional<double> least_gap_mm; ///< below 1 mm, within the mesh; none when there is none
    std::optional<Finding> narrow;      ///< where the print closes some
};

struct Inspection {
    Soundness soundness;
    std::optional<double> volume_mm3; ///< signed; none for an open mesh
    double area_mm2 = 0;
    std::optional<Box3> box;
    std::string unit_guess;         ///< "mm", "inch", "m", or empty
    std::optional<WallFacts> walls; ///< none when not measured
    double overhang_area_mm2 = 0;
    std::optional<double> widest_bridge_mm; ///< of the flat roofs held at both ends; none without any
    double bed_contact_area_mm2 = 0;
    std::optional<bool> tips_over; ///< none for an open mesh: it has no centre of mass
    bool fits_bed = false;
    std::optional<Vec3> centre_of_mass;
    std::vector<Finding> findings;
};

/// Walls of a mesh, and gaps within each of its bodies: gaps between bodies are contacts. Fails on request.
Expected<WallFacts> wall_facts(const TriMesh& mesh, const std::vector<const TriMesh*>& bodies,
                               const InspectionOptions& options, double longest_facet_mm, const Task& task);
/// Puts them into an inspection, in place of those that stood there.
void tell_walls(const std::optional<WallFacts>& walls, Inspection& inspection);

Inspection inspect(const TriMesh& mesh, const InspectionOptions& options = {}, const Task& task = {});

} // namespace lp
