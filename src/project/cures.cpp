#include "project/cures.h"
#include "base/quantity.h"
#include "base/text.h"
#include "bed/raft.h"
#include "bed/support_figures.h"
#include "check/bridges.h"
#include "check/footing.h"
#include "check/inspection.h"
#include "check/overhang.h"
#include "check/unit_guess.h"
#include "project/bodies_apart.h"
#include "project/closed_at_bed.h"
#include "project/fine_strokes.h"
#include "project/flared_rims.h"
#include "project/hanging_cures.h"
#include "project/joint_gaps.h"
#include "project/pose_choices.h"
#include "project/split_comparison.h"
#include "project/split_for_bed.h"

namespace lp {
namespace {

void add_push(const FacePlace& place, double by, const char* words, const char* hint, std::vector<FindingCure>& cures) {
    if (!place.body->is_exact() || std::fabs(by) < 0.01) return;
    const double hundredths = (by > 0 ? std::ceil(by * 100) : std::floor(by * 100)) / 100;
    cures.push_back(cure_by_step(place, words, hint, "push",
                                 {{"faces", place.reference().text()}, {"by", format_number(hundredths) + " mm"}}));
}

Footing footing_of(const PosedPart& posed, const Project& project) {
    const TriMesh mesh = posed.mesh();
    return check_footing(mesh, mass_properties(mesh).centre, project.printer.bed_mm);
}

/// As wide as it must be, of widths people use (common practice, no published source).
void add_brim(const PosedPart& posed, const Project& project, std::vector<FindingCure>& cures) {
    const Part& part = *posed.part;
    const Footing standing = footing_of(posed, project);
    for (double wide : {6.0, 10.0, 15.0}) {
        if (standing.slender(wide) || wide <= part.supports.options.border_mm()) continue;
        SupportSettings settings = part.supports;
        settings.options.brim_mm = wide;
        if (settings.options.border_mm() < wide) settings.options.brim_place = BrimPlace::Outside;
        settings.options.raft_layers = 0;
        Edit edit = SetSupports{part.id, settings};
        edit.sentence = "Gave " + part.name + " a brim of " + format_number(wide) + " mm";
        cures.push_back({"Brim of " + format_number(wide) + " mm", part.name,
                         "A border one layer high round its foot, to be torn off.", edit});
        break;
    }
    if (part.supports.options.raft_layers > 0 || standing.slender(raft_margin_mm)) return;
    SupportSettings settings = part.supports;
    settings.options.raft_layers = 3;
    Edit edit = SetSupports{part.id, settings};
    edit.sentence = "Put a raft under " + part.name;
    cures.push_back({"Raft of 3 layers", part.name,
                     "A flat body under everything, to be pulled off: holds on beds that a brim comes off.", edit});
}

void add_corner_brim(const Part& part, std::vector<FindingCure>& cures) {
    SupportSettings settings = part.supports;
    settings.options.brim_mm = 8; // common practice, no published source
    settings.options.brim_place = BrimPlace::Corners;
    Edit edit = SetSupports{part.id, settings};
    edit.sentence = "Gave the corners of " + part.name + " a brim";
    cures.push_back({"Brim at the corners", part.name, "Discs of 8 mm one layer high, to be torn off.", edit});
}

/// The rim on the bed nearest to the finding gets a chamfer that takes the flare.
void add_foot_chamfer(const PosedPart& posed, const Finding& finding, const PrinterCard& card,
                      std::vector<FindingCure>& cures) {
    const auto rims = flared_rims(*posed.made, posed.pose);
    const auto rim = std::min_element(rims.begin(), rims.end(), [&](const FlaredRim& a, const FlaredRim& b) {
        return (a.at - finding.where).norm() < (b.at - finding.where).norm();
    });
    if (rim == rims.end()) return;
    const Body& body = posed.made->bodies[rim->body].body;
    const FacePlace place{posed.part.get(), &body, rim->face, posed.pose.inverse() * rim->at, posed.up()};
    // As deep and as wide as the flare, and a tenth more.
    const double distance =
        std::ceil((std::max(card.first_layer_flare_mm, card.first_layer_mm) + 0.1) * 10 - 1e-6) / 10;
    cures.push_back(cure_by_step(place, "Chamfer at the foot", "Takes what the first layer flares.", "chamfer",
                                 {{"edges", GeometryItem(make_edge_reference(body, rim->edge, place.at)).text()},
                                  {"distance", format_number(distance) + " mm"}}));
}

/// The best of the ways up that are compared.
void add_turn(const Evaluation& evaluation, const PosedPart& posed, const Task& task, std::vector<FindingCure>& cures) {
    PoseOptions options = pose_options(evaluation, *posed.part, *posed.made);
    options.best = 1;
    const auto best = best_poses(*posed.made->mesh, options, task);
    if (!best || best->empty() || best->front().as_it_lies) return;
    Edit edit = SetPose{posed.part->id, pose_with_up(best->front().up)};
    edit.sentence = "Turned " + posed.part->name + " to its best way up";
    cures.push_back(
        {"Best way up", posed.part->name, "Lays the part so: the first when ways up are compared.", edit, true});
}

/// Posts or trees, as the part has them set.
void add_supports_here(const PosedPart& posed, std::vector<FindingCure>& cures) {
    if (posed.part->supports.on) return;
    SupportSettings settings = posed.part->supports;
    settings.on = true;
    Edit edit = SetSupports{posed.part->id, settings};
    edit.sentence = "Put supports under " + posed.part->name;
    const bool trees = settings.options.kind == SupportKind::Trees;
    cures.push_back({trees ? "Trees under it" : "Posts under it", posed.part->name,
                     "Supports under all that hangs, to be broken off.", edit, true});
}

/// The letters of the texts that are too fine, every stroke wider.
void add_thicker_letters(const PosedPart& posed, double line_mm, std::vector<FindingCure>& cures) {
    for (const FineStroke& stroke : fine_strokes(*posed.made, line_mm)) {
        const Step* step = posed.part->step(stroke.step);
        auto drawing = step ? drawing_of(*step) : problem(ProblemCode::Missing, "", "");
        Element* element = drawing ? drawing->element(stroke.element) : nullptr;
        if (!element) continue;
        // A side; what is there already may be an expression.
        const double by = std::ceil((line_mm - stroke.finest_mm) / 2 * 100 + 0.5) / 100;
        const std::string now = element_text(*element, "thicken");
        element->texts["thicken"] = (now == "0 mm" ? "" : "(" + now + ") + ") + format_number(by) + " mm";
        Edit edit = SetDrawing{posed.part->id, step->id, *drawing};
        edit.sentence = "Thickened \"" + stroke.text + "\"";
        cures.push_back({"Thicken the letters", quoted_start(stroke.text),
                         "Every stroke wider by " + format_number(by, 2) + " mm a side, as wide as one line.", edit});
    }
}

/// Walls or gaps that are too thin or too narrow.
Expected<Walls> narrow_places(const TriMesh& mesh, FindingKind kind, const PrinterCard& card, const Task& task) {
    return kind == FindingKind::Thin ? measure_walls(mesh, {.thin_mm = 2 * card.nozzle_mm}, task)
                                     : measure_gaps(mesh, card.smallest_open_gap_mm, task);
}

/// What hangs and is no bridge that holds, mm2.
double hangs_unbridged(const TriMesh& posed, const PrinterCard& card, const Task& task) {
    double area = find_overhang(posed, card.overhang_limit_deg).area_mm2;
    for (const Roof& roof : find_roofs(posed, task))
        if (roof.span_mm && *roof.span_mm <= card.bridge_limit_mm + 1e-6) area -= roof.area_mm2;
    return std::max(area, 0.0);
}

/// What a finding is measured by, the less the better: mm2, or the height over the foot.
Vec3 sizes_of(const PosedPart& posed) {
    return bounding_box(*posed.made->mesh).sizes();
}

/// What of a damaged mesh a finding counts.
double faults_of(const TriMesh& mesh, FindingKind kind, const Task& task) {
    const bool crossing = kind == FindingKind::Crossing || kind == FindingKind::Overlap;
    for (const Finding& found : inspect(mesh, {.self_intersections = crossing}, task).findings)
        if (found.kind == kind) return double(found.count);
    return 0;
}

Expected<double> measure_of(const Evaluation& evaluation, const PartFinding& finding, const Task& task) {
    const auto posed = posed_of(evaluation, finding.ref.part);
    if (!posed) return problem(ProblemCode::Missing, "There is no body left.");
    const PrinterCard& card = evaluation.project->printer;
    if (row_of(finding.ref.kind).of_mesh) return faults_of(*posed->made->mesh, finding.ref.kind, task);
    switch (finding.ref.kind) {
    case FindingKind::Thin:
    case FindingKind::Narrow: {
        auto found = narrow_places(posed->mesh(), finding.ref.kind, card, task);
        if (!found) return pass_on(found);
        return found->thin_area_mm2;
    }
    case FindingKind::Small:
        return unit_factor(guess_unit(sizes_of(*posed))) > 1 ? 1 : 0;
    case FindingKind::Slender: {
        const Footing standing = footing_of(*posed, *evaluation.project);
        const double foot = standing.foot_width_mm + 2 * posed->part->supports.options.border_mm();
        return standing.height_mm / std::max(foot, 0.1);
    }
    case FindingKind::Flared:
        return double(flared_rims(*posed->made, posed->pose).size());
    case FindingKind::TooBig:
        return double(too_big_for_bed(evaluation, finding.ref.part));
    case FindingKind::ClosedAtBed:
        return double(pairs_closed_at_bed(evaluation, finding.ref.part, task));
    case FindingKind::LyingJoint:
        return hanging_mm2(joint_gaps(*posed->made, task), posed->pose, card.overhang_limit_deg);
    case FindingKind::FineStroke:
        return double(fine_strokes(*posed->made, card.line_mm()).size());
    case FindingKind::Hanging:
        return hangs_unbridged(posed->mesh(), card, task);
    default:
        return find_overhang(posed->mesh(), card.overhang_limit_deg).area_mm2;
    }
}

/// The factor of the unit it seems to be drawn in goes into the step that brought it in.
void add_scale(const PosedPart& posed, std::vector<FindingCure>& cures) {
    const std::string unit = guess_unit(sizes_of(posed));
    const double factor = unit_factor(unit);
    if (factor == 1) return;
    for (const Step& step : posed.part->steps) {
        const auto scale = step.fields.find("scale");
        if (step.kind != "bring_in") continue;
        const std::string was = scale == step.fields.end() || scale->second.text() == "1"
                                    ? std::string()
                                    : "(" + scale->second.text() + ") * ";
        Edit edit = SetField{posed.part->id, step.id, "scale", was + format_number(factor)};
        edit.sentence = "Scaled " + posed.part->name + " by " + format_number(factor);
        cures.push_back({"Scale by " + format_number(factor), posed.part->name,
                         unit == "m" ? "It was drawn in metres." : "It was drawn in inches.", edit});
        return;
    }
}

/// The cures of mending that are for this, each alone.
void add_mending(const PosedPart& posed, FindingKind kind, std::vector<FindingCure>& cures) {
    using K = FindingKind;
    struct Way {
        std::vector<FindingKind> kinds;
        const char *only, *words, *hint;
    };
    static const Way ways[] = {
        {{K::NonFinite, K::Degenerate, K::Duplicate}, "dropping", "Drop them", "Nothing else is changed."},
        {{K::Open}, "welding", "Weld the edges", "Edges that lie side by side become one; no hole is filled."},
        {{K::Open}, "filling", "Fill the holes", "Facets are put in; what is there stays."},
        {{K::Open}, "dropping", "Drop loose scraps", "Flat pieces that hang on nothing go."},
        {{K::CrowdedEdge, K::Pinch}, "parting", "Part them", "Bodies that only touch there get corners of their own."},
        {{K::Flipped, K::InsideOut}, "turning", "Turn them over", "No place moves; facets look the other way."},
        {{K::Crossing, K::Overlap, K::Inner}, "uniting", "Unite them", "One surface round all that is material."}};
    for (const Way& way : ways) {
        if (!std::count(way.kinds.begin(), way.kinds.end(), kind)) continue;
        Edit edit = AddStep{posed.part->id, step_of_kind("mend", {{"only", way.only}}), {}};
        cures.push_back({way.words, posed.part->name, way.hint, edit});
    }
}

std::string says(FindingKind kind, double before, double after) {
    if (row_of(kind).of_mesh)
        return std::string(row_of(kind).title) + " fall from " + format_number(before, 0) + " to " +
               format_number(after, 0) + ".";
    const std::string falls =
        " falls from " + format_number(before, before < 100) + " to " + format_number(after, after < 100);
    return kind == FindingKind::Slender  ? "Its height" + falls + " times its foot."
           : kind == FindingKind::Thin   ? "What is thin" + falls + " mm²."
           : kind == FindingKind::Narrow ? "What is narrow" + falls + " mm²."
           : kind == FindingKind::FineStroke
               ? "Texts too fine fall from " + format_number(before, 0) + " to " + format_number(after, 0) + "."
           : kind == FindingKind::LyingJoint  ? "What hangs in its gap" + falls + " mm²."
           : kind == FindingKind::ClosedAtBed ? "Gaps closed by the first layer fall from " + format_number(before, 0) +
                                                    " to " + format_number(after, 0) + "."
           : kind == FindingKind::Flared ? "Rims of holes and pegs on the bed" + falls + "."
                                         : "What hangs" + falls + " mm².";
}

/// Whether a step of the part failed, or was made in part, that did not fail before.
bool fails_anew(const PartResult& made, const PartResult& before) {
    return std::any_of(made.steps.begin(), made.steps.end(), [&](const StepOutcome& s) {
        return (!s.ok || s.in_part) &&
               std::none_of(before.steps.begin(), before.steps.end(),
                            [&](const StepOutcome& was) { return was.step == s.step && !was.ok; });
    });
}

bool parts_it(const FindingCure& cure) {
    return cure.aside && cure.edit.parts.front().get_if<AddStep>();
}
bool pins_it(const FindingCure& cure) {
    const AddStep* added = cure.edit.parts.front().get_if<AddStep>();
    return added && added->step.kind == "pinned_split";
}

/// Pieces but the largest become parts of their own, so that each is laid and printed for itself. `made` is what came
/// of the edit so far: the names and numbers in it are those that the edit will give.
void take_pieces_out(const Evaluation& made, PartId id, Edit& edit) {
    const PartPtr part = made.project->part(id);
    const PartResult* result = made.part(id);
    if (!part || !result) return;
    auto apart = bodies_apart(made, id, lesser_bodies(*result), part->name + ", piece");
    if (!apart) return;
    edit.parts.insert(edit.parts.end(), apart->parts.begin(), apart->parts.end());
    edit.sentence = "Split " + part->name + " in two parts";
}

struct Outcome {
    double left = 0; ///< as measure_of
    std::string says;
};
/// After a cure: pieces are laid each in its best way up, supports are counted by what they carry.
Expected<Outcome> outcome_of(const Evaluation& cured, const PartFinding& finding, const FindingCure& cure,
                             double before, const Task& task) {
    if (pins_it(cure))
        return Outcome{double(too_big_for_bed(cured, finding.ref.part)), halves_words(cured, finding.ref.part)};
    if (parts_it(cure)) {
        const auto comparison = compare_split(cured, finding.ref.part, task);
        if (task.stopped()) return cancelled();
        if (!comparison || comparison->whole.supports_mm3 < 1) return Outcome{before, {}};
        return Outcome{before * comparison->split.supports_mm3 / comparison->whole.supports_mm3,
                       split_words(*comparison)};
    }
    if (cure.aside && cure.edit.parts.front().get_if<SetSupports>()) {
        const auto posed = posed_of(cured, finding.ref.part);
        if (!posed) return Outcome{before, {}};
        const TriMesh mesh = posed->mesh();
        const Supports supports = supports_of(cured, *posed->part, mesh, task);
        if (task.stopped()) return cancelled();
        if (!supports.count()) return Outcome{before, {}};
        const SupportFigures figures = support_figures(mesh, supports, support_options(*cured.project, *posed->part));
        const double grams = figures.volume_mm3 / 1000 * material_of(*cured.project, *posed->part).density_g_cm3;
        return Outcome{figures.unsupported_area_mm2,
                       supports.says_how_many() + ", " + format_number(grams, 1) + " g" +
                           (figures.unsupported_area_mm2 < 0.5
                                ? ", carry all that hangs."
                                : "; " + format_number(figures.unsupported_area_mm2, 0) + " mm² stay without.")};
    }
    auto after = measure_of(cured, finding, task);
    if (!after) return pass_on(after);
    if (finding.ref.kind == FindingKind::Small) {
        const auto posed = posed_of(cured, finding.ref.part);
        const double longest = posed ? sizes_of(*posed).maxCoeff() : 0;
        return Outcome{*after, "It is " + format_quantity(longest, QuantityKind::Length) + " long then."};
    }
    return Outcome{*after, says(finding.ref.kind, before, *after)};
}

} // namespace

std::vector<FindingCure> cures_of(const Evaluation& evaluation, const PartFinding& finding, const Task& task) {
    std::vector<FindingCure> cures;
    const auto posed = posed_of(evaluation, finding.ref.part);
    if (!posed) return cures;
    const FindingKind kind = finding.ref.kind;
    const PrinterCard& card = evaluation.project->printer;
    if (row_of(kind).of_mesh) add_mending(*posed, kind, cures);
    switch (kind) {
    case FindingKind::Slender:
        add_brim(*posed, *evaluation.project, cures);
        break;
    case FindingKind::TooBig:
        if (auto cure = split_for_bed(evaluation, finding.ref.part, task)) cures.push_back(*cure);
        break;
    case FindingKind::Small:
        add_scale(*posed, cures);
        break;
    case FindingKind::Lifting:
        add_corner_brim(*posed->part, cures);
        break;
    case FindingKind::LyingJoint:
        add_turn(evaluation, *posed, task, cures);
        break;
    case FindingKind::FineStroke:
        add_thicker_letters(*posed, card.line_mm(), cures);
        break;
    case FindingKind::ClosedAtBed:
        add_chamfered_feet(evaluation, finding, cures);
        break;
    case FindingKind::Flared:
        add_foot_chamfer(*posed, finding.finding, card, cures);
        break;
    case FindingKind::Thin:
    case FindingKind::Narrow: {
        const auto found = narrow_places(*posed->made->mesh, kind, card, task);
        const auto place = place_of_finding(*posed, finding.finding);
        if (!found || !found->least_mm || !place) break;
        if (kind == FindingKind::Thin)
            add_push(*place, 2 * card.nozzle_mm - *found->least_mm, "Thicken this wall",
                     "Pushes the face out until two lines fit.", cures);
        else
            add_push(*place, *found->least_mm - card.smallest_open_gap_mm, "Widen this gap",
                     "Pushes the face back until the gap stays open.", cures);
        break;
    }
    case FindingKind::Hanging:
    case FindingKind::LyingHole:
    case FindingKind::Bridge:
        add_hanging_cures(*posed, kind, card, cures);
        add_supports_here(*posed, cures);
        add_turn(evaluation, *posed, task, cures);
        break;
    default:
        break;
    }
    return cures;
}

Expected<std::vector<TriedCure>> tried_cures(Evaluator& evaluator, const Evaluation& evaluation,
                                             const PartFinding& finding, const Task& task) {
    const std::vector<FindingCure> cures = cures_of(evaluation, finding, task);
    if (cures.empty()) return std::vector<TriedCure>{};
    auto before = measure_of(evaluation, finding, task);
    if (!before) return pass_on(before);
    std::vector<std::pair<double, TriedCure>> better; // by what is left after it
    for (const FindingCure& cure : cures) {
        task.tell("Trying what would help", double(&cure - cures.data()) / double(cures.size()));
        if (task.stopped()) return cancelled();
        auto edited = apply_edit(*evaluation.project, cure.edit);
        if (!edited) continue;
        auto made = evaluator.evaluate(edited->project, task);
        if (!made) return pass_on(made);
        const PartResult* part = made->part(finding.ref.part);
        if (!part || !part->mesh || fails_anew(*part, *evaluation.part(finding.ref.part))) continue;
        auto after = outcome_of(*made, finding, cure, *before, task);
        if (!after) return pass_on(after);
        if (after->left > 0.95 * *before) continue; // it helps next to nothing
        better.push_back({after->left, {cure, after->says}});
        if (pins_it(cure))
            take_halves_out(*made, finding.ref.part, better.back().second.cure.edit);
        else if (parts_it(cure))
            take_pieces_out(*made, finding.ref.part, better.back().second.cure.edit);
    }
    std::stable_sort(better.begin(), better.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    // Another way up changes everything else too: what changes the part alone comes before it.
    std::stable_partition(better.begin(), better.end(),
                          [](const std::pair<double, TriedCure>& b) { return !b.second.cure.aside; });
    std::vector<TriedCure> told;
    for (auto& [left, cure] : better) told.push_back(std::move(cure));
    return told;
}

} // namespace lp
