#include "project/cure_places.h"
#include "check/overhang.h"
#include "project/analysis.h"
#include "shape/mesh_distance.h"

namespace lp {

std::string FacePlace::words() const {
    const auto meaning = tag_meaning(info().primary());
    std::string words = tag_words(info().primary());
    if (!meaning) return words;
    for (size_t i = 0; i < part->steps.size(); ++i)
        if (const Step& step = part->steps[i]; step.id == meaning->step)
            words += " of " + (step.name.empty() ? "step " + std::to_string(i + 1) : step.name);
    return words;
}

std::optional<PosedPart> posed_of(const Evaluation& evaluation, PartId id) {
    PosedPart posed{evaluation.project->part(id), evaluation.part(id), {}};
    if (!posed.part || !posed.made || !posed.made->mesh) return std::nullopt;
    posed.pose = pose_of_part(*posed.part, *posed.made, evaluation.values);
    return posed;
}

std::optional<FacePlace> place_of_finding(const PosedPart& posed, const Finding& finding) {
    FacePlace place{posed.part.get(), nullptr, 0, {}, posed.up()};
    const Vec3 wanted = posed.pose.inverse() * finding.where;
    double nearest = 0.05; // facets stand off round faces
    for (const StepBody& body : posed.made->bodies) {
        const Tessellation& t = body.body.tessellation();
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
            const Vec3 on = closest_on_triangle(wanted, t.mesh.corner(i, 0), t.mesh.corner(i, 1), t.mesh.corner(i, 2));
            if ((on - wanted).norm() >= nearest) continue;
            nearest = (on - wanted).norm();
            place.body = &body.body;
            place.face = t.face_of[i];
            place.at = on;
        }
    }
    return place.body ? std::optional(place) : std::nullopt;
}

std::vector<FacePlace> hanging_places(const PosedPart& posed, double limit_deg) {
    constexpr size_t most = 6;
    constexpr double least_mm2 = 1;
    struct Hanging {
        double area_mm2, largest_mm2;
        FacePlace place;
    };
    std::vector<Hanging> all;
    for (const StepBody& body : posed.made->bodies) {
        const Tessellation& t = body.body.tessellation();
        std::map<size_t, Hanging> faces;
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
            const Vec3 area = t.mesh.area_vector(i);
            if (hang_angle_deg((posed.pose.linear() * area).stableNormalized()) <= limit_deg) continue;
            const Vec3 middle = (t.mesh.corner(i, 0) + t.mesh.corner(i, 1) + t.mesh.corner(i, 2)) / 3;
            if ((posed.pose * middle).z() < 0.01) continue; // it lies on the bed
            const double mm2 = area.norm() / 2;
            auto [face, fresh] = faces.try_emplace(
                t.face_of[i], Hanging{0, 0, {posed.part.get(), &body.body, t.face_of[i], middle, posed.up()}});
            face->second.area_mm2 += mm2;
            if (mm2 > face->second.largest_mm2) face->second.largest_mm2 = mm2, face->second.place.at = middle;
        }
        for (auto& [face, hanging] : faces)
            if (hanging.area_mm2 > least_mm2) all.push_back(hanging);
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const Hanging& a, const Hanging& b) { return a.area_mm2 > b.area_mm2; });
    std::vector<FacePlace> places;
    for (size_t i = 0; i < all.size() && i < most; ++i) places.push_back(all[i].place);
    return places;
}

} // namespace lp
