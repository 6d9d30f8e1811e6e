// Everything `inspect` tells about a mesh: soundness, size, overhang, standing; as numbers and as sentences.
#pragma once
#include "check/finding.h"
#include "mesh/soundness.h"
#include <optional>
#include <string>

namespace lp {

struct InspectionOptions {
    Vec3 up = Vec3::UnitZ();
    double nozzle_mm = 0.4;
    double overhang_limit_deg = 45;
    Vec3 bed_mm{220, 220, 250};
    double min_gap_mm = 0.2;
    bool self_intersections = true;
};

struct Inspection {
    Soundness soundness;
    std::optional<double> volume_mm3; ///< signed; none for an open mesh
    double area_mm2 = 0;
    std::optional<Box3> box;
    std::string unit_guess; ///< "mm", "inch", "m", or empty
    double overhang_area_mm2 = 0;
    double bed_contact_area_mm2 = 0;
    std::optional<bool> tips_over; ///< none for an open mesh: it has no centre of mass
    bool fits_bed = false;
    std::optional<Vec3> centre_of_mass;
    std::vector<Finding> findings;
};

Inspection inspect(const TriMesh& mesh, const InspectionOptions& options = {}, const Task& task = {});

/// Common sense about sizes: printed parts measure some millimetres to some hundreds. Empty when nothing fits.
std::string guess_unit(double largest_extent);

} // namespace lp
