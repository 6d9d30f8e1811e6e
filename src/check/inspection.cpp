#include "check/inspection.h"
#include "base/quantity.h"
#include "base/text.h"
#include "check/bridges.h"
#include "check/footing.h"
#include "check/overhang.h"
#include "check/unit_guess.h"

namespace lp {
namespace {

class Findings {
  public:
    explicit Findings(std::vector<Finding>& list) : list_(list) {}
    void add(FindingKind kind, const Fault& fault, const std::string& says, std::string title = {}) {
        if (title.empty()) title = row_of(kind).title;
        if (!fault.count) return;
        list_.push_back({kind, fault.count, fault.where, says, std::move(title)});
        list_.back().places = fault.places;
    }
    void add(FindingKind kind, const Vec3& where, const std::string& says) { add(kind, Fault{1, where}, says); }

  private:
    std::vector<Finding>& list_;
};

void add_soundness(const Soundness& s, Findings& findings) {
    findings.add(FindingKind::NonFinite, s.nonfinite,
                 counted(s.nonfinite.count, "facet has", "facets have") + " a corner that is no number.");
    findings.add(FindingKind::Degenerate, s.degenerate,
                 counted(s.degenerate.count, "facet has", "facets have") + " no area.");
    findings.add(FindingKind::Duplicate, s.duplicate,
                 counted(s.duplicate.count, "facet is", "facets are") + " there twice.");
    findings.add(FindingKind::Open, s.open_edges,
                 counted(s.open_edges.count, "edge is", "edges are") + " open, round " +
                     counted(s.holes.count, "hole", "holes") +
                     (s.closed ? " without width: the surface closes, but not corner to corner."
                               : ": the surface does not close."));
    findings.add(FindingKind::CrowdedEdge, s.nonmanifold_edges,
                 counted(s.nonmanifold_edges.count, "edge has", "edges have") +
                     " more than two facets: inside and outside are unclear there.");
    findings.add(FindingKind::Pinch, s.nonmanifold_vertices,
                 "Surfaces touch only at a corner in " + counted(s.nonmanifold_vertices.count, "place", "places") +
                     ".");
    findings.add(FindingKind::Flipped, s.flipped,
                 counted(s.flipped.count, "facet faces", "facets face") +
                     " against the neighbours, or inward beside shells that face outward.");
    if (s.inside_out)
        findings.add(FindingKind::InsideOut, s.kept.vertices.empty() ? Vec3(0, 0, 0) : s.kept.vertices[0],
                     "The whole shell faces inward: it would print as nothing.");
    if (s.self_intersecting)
        findings.add(FindingKind::Crossing, *s.self_intersecting,
                     counted(s.self_intersecting->count, "facet passes", "facets pass") + " through others.");
    if (s.overlapping_shells)
        findings.add(FindingKind::Overlap, *s.overlapping_shells,
                     counted(s.overlapping_shells->count, "shell passes", "shells pass") + " through another.");
    findings.add(FindingKind::Inner, s.inner_shells,
                 counted(s.inner_shells.count, "shell lies", "shells lie") + " hidden inside another.");
    findings.add(FindingKind::Cavity, s.cavities, counted(s.cavities.count, "void is", "voids are") + " closed in.");
}

/// What hangs, told apart: bridges that hold, bridges that are too wide, and the rest.
void tell_hanging(const TriMesh& posed, const Transform& up, const InspectionOptions& options, const Task& task,
                  Findings& findings, Inspection& result) {
    const Overhang overhang = find_overhang(posed, options.overhang_limit_deg);
    result.overhang_area_mm2 = overhang.area_mm2;
    double bridged_mm2 = 0;
    Fault wide;
    for (const Roof& roof : find_roofs(posed, task)) {
        if (!roof.span_mm) continue;
        if (*roof.span_mm > result.widest_bridge_mm.value_or(0)) result.widest_bridge_mm = roof.span_mm;
        bridged_mm2 += roof.area_mm2;
        if (*roof.span_mm > options.bridge_limit_mm + 1e-6 && ++wide.count == 1)
            wide.where = up.inverse() * roof.middle;
    }
    constexpr double nothing_mm2 = 0.05;
    const double hangs_mm2 = overhang.area_mm2 - (overhang.area_mm2 > 0 ? bridged_mm2 : 0);
    if (hangs_mm2 > nothing_mm2)
        findings.add(
            FindingKind::Hanging, Fault{overhang.triangles.size(), up.inverse() * overhang.where},
            format_number(overhang.area_mm2, 1) + " mm² hang up to " + format_number(overhang.steepest_deg, 0) +
                "° from vertical, from z " + format_number(overhang.lowest_z, 1) + " mm" +
                (bridged_mm2 > nothing_mm2 ? "; " + format_number(bridged_mm2, 1) + " mm² of it are bridges of up to " +
                                                 format_number(*result.widest_bridge_mm, 1) + " mm."
                                           : "."),
            "Hangs beyond " + format_number(options.overhang_limit_deg) + "°");
    findings.add(FindingKind::Bridge, wide,
                 "Spans " + format_number(result.widest_bridge_mm.value_or(0), 1) + " mm between its ends; beyond " +
                     format_number(options.bridge_limit_mm, 1) + " mm its lines sag.");
}

} // namespace

Expected<WallFacts> wall_facts(const TriMesh& mesh, const std::vector<const TriMesh*>& bodies,
                               const InspectionOptions& options, double longest_facet_mm, const Task& task) {
    const double nozzle_mm = options.nozzle_mm;
    auto walls = measure_walls(mesh, {.thin_mm = 2 * nozzle_mm, .longest_facet_mm = longest_facet_mm}, task);
    if (!walls) return pass_on(walls);
    WallFacts facts{walls->least_mm, walls->thin_area_mm2, {}, {}, {}};
    if (walls->thin_places) {
        const double least = walls->least_mm.value_or(0);
        const bool lost = least < nozzle_mm - 1e-3;
        facts.thin = Finding{.kind = FindingKind::Thin,
                             .count = walls->thin_places,
                             .where = walls->thin_at,
                             .says = "Walls down to " + format_number(least, 2) + " mm: " +
                                     format_number(walls->thin_area_mm2, 1) + " mm² are thinner than two lines" +
                                     (lost ? ", some less than the nozzle: they are not printed." : ".")};
    }
    size_t places = 0;
    Vec3 at = Vec3::Zero();
    for (const TriMesh* body : bodies) {
        auto gaps = measure_gaps(*body, options.min_gap_mm, task);
        if (!gaps) return pass_on(gaps);
        places += gaps->thin_places;
        if (!gaps->least_mm || *gaps->least_mm >= facts.least_gap_mm.value_or(1e9)) continue;
        facts.least_gap_mm = gaps->least_mm;
        if (gaps->thin_places) at = gaps->thin_at;
    }
    if (places)
        facts.narrow = Finding{.kind = FindingKind::Narrow,
                               .count = places,
                               .where = at,
                               .says = "Gaps down to " + format_number(*facts.least_gap_mm, 2) + " mm: below " +
                                       format_number(options.min_gap_mm, 2) + " mm the print closes them."};
    return facts;
}

void tell_walls(const std::optional<WallFacts>& walls, Inspection& inspection) {
    inspection.walls = walls;
    std::erase_if(inspection.findings,
                  [](const Finding& f) { return f.kind == FindingKind::Thin || f.kind == FindingKind::Narrow; });
    if (walls && walls->thin) inspection.findings.push_back(*walls->thin);
    if (walls && walls->narrow) inspection.findings.push_back(*walls->narrow);
}

Inspection inspect(const TriMesh& mesh, const InspectionOptions& options, const Task& task) {
    Inspection result;
    result.soundness = check_soundness(mesh, {.self_intersections = options.self_intersections}, task);
    const Soundness& sound = result.soundness;
    Findings findings(result.findings);
    add_soundness(sound, findings);
    if (sound.kept.empty()) return result;
    MassProperties mass = mass_properties(sound.kept);
    result.area_mm2 = mass.area_mm2;
    result.box = bounding_box(sound.kept);
    result.unit_guess = guess_unit(result.box->sizes());
    if (sound.closed) {
        result.volume_mm3 = mass.volume_mm3;
        result.centre_of_mass = mass.centre;
    }
    if (result.unit_guess == "inch" || result.unit_guess == "m")
        findings.add(FindingKind::Small, result.box->center(),
                     "It is " + format_quantity(result.box->sizes().maxCoeff(), QuantityKind::Length) +
                         " long: it may have been drawn in " +
                         (result.unit_guess == "m" ? "metres (times 1000)." : "inches (times 25.4)."));
    if (options.walls) {
        task.tell("Measuring walls", 0.6);
        if (auto facts = wall_facts(sound.kept, {&sound.kept}, options, 1, task)) tell_walls(*facts, result);
    }
    task.tell("Looking at the pose", 0.95);
    Transform up = turned_up(options.up);
    TriMesh posed = transformed(sound.kept, up);
    tell_hanging(posed, up, options, task, findings, result);
    Footing standing = check_footing(posed, up * mass.centre, options.bed_mm);
    result.bed_contact_area_mm2 = standing.contact_area_mm2;
    result.fits_bed = standing.fits_bed;
    if (sound.closed) {
        result.tips_over = standing.tips_over;
        if (standing.tips_over)
            findings.add(FindingKind::Tipping, up.inverse() * standing.foot,
                         "Its weight is not above what stands on the bed: it tips over.");
        else if (standing.slender(options.brim_mm))
            findings.add(FindingKind::Slender, up.inverse() * standing.foot,
                         "It grows " + format_number(standing.height_mm, 1) + " mm tall on a foot " +
                             format_number(standing.foot_width_mm, 1) + " mm wide: it may be knocked over.");
    }
    if (!standing.fits_bed) {
        Vec3 size = bounding_box(posed).sizes();
        findings.add(FindingKind::TooBig, result.box->center(),
                     "It measures " + format_number(size.x(), 1) + " x " + format_number(size.y(), 1) + " x " +
                         format_number(size.z(), 1) + " mm and the bed " + format_number(options.bed_mm.x()) + " x " +
                         format_number(options.bed_mm.y()) + " x " + format_number(options.bed_mm.z()) + " mm.");
    }
    return result;
}

} // namespace lp
