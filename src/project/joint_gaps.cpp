#include "project/joint_gaps.h"
#include "base/quantity.h"
#include "check/overhang.h"
#include <algorithm>
#include <map>

namespace lp {
namespace {

constexpr double reach_mm = 1, touching_mm = 0.01;

double hang_of(const FacingSample& place, const Transform& pose) {
    return hang_angle_deg(pose.linear() * place.normal);
}

bool hangs(const FacingSample& place, const Transform& pose, double limit_deg) {
    return hang_of(place, pose) > limit_deg + 1;
}

} // namespace

std::vector<JointGap> joint_gaps(const PartResult& made, const Task& task) {
    std::vector<JointGap> gaps;
    const size_t n = made.bodies.size();
    if (n < 2) return gaps;
    std::vector<Box3> boxes;
    for (const StepBody& body : made.bodies) boxes.push_back(bounding_box(body.body.mesh()));
    std::vector<std::shared_ptr<const MeasuredBody>> ready(n);
    auto measured = [&](size_t i) -> const MeasuredBody& {
        if (!ready[i]) ready[i] = std::make_shared<const MeasuredBody>(made.bodies[i].body.mesh());
        return *ready[i];
    };
    for (size_t i = 0; i < n; ++i)
        for (size_t j = i + 1; j < n; ++j) {
            if (task.stopped()) return {};
            if (boxes[i].isEmpty() || boxes[j].isEmpty() || boxes[i].exteriorDistance(boxes[j]) >= reach_mm) continue;
            JointGap gap{i, j, facing_samples(measured(i), {}, measured(j), {.reach_mm = reach_mm})};
            for (FacingSample& place : facing_samples(measured(j), {}, measured(i), {.reach_mm = reach_mm}))
                gap.places.push_back(std::move(place));
            const bool touches = std::any_of(gap.places.begin(), gap.places.end(),
                                             [](const FacingSample& s) { return s.gap_mm < touching_mm; });
            if (!touches && !gap.places.empty()) gaps.push_back(std::move(gap));
        }
    return gaps;
}

double hanging_mm2(const std::vector<JointGap>& gaps, const Transform& pose, double limit_deg) {
    double area = 0;
    for (const JointGap& gap : gaps)
        for (const FacingSample& place : gap.places)
            if (hangs(place, pose, limit_deg)) area += place.area_mm2;
    return area;
}

std::vector<Vec3> area_vectors(const std::vector<JointGap>& gaps) {
    constexpr double fine = 40; // directions are told apart by about a degree
    std::map<std::array<int, 3>, Vec3> bins;
    for (const JointGap& gap : gaps)
        for (const FacingSample& place : gap.places) {
            std::array<int, 3> bin{};
            for (int k = 0; k < 3; ++k) bin[size_t(k)] = int(std::lround(place.normal[k] * fine));
            bins.try_emplace(bin, Vec3::Zero()).first->second += place.normal * place.area_mm2;
        }
    std::vector<Vec3> areas;
    for (const auto& [bin, area] : bins) areas.push_back(area);
    return areas;
}

std::optional<Finding> lying_joint(const PartResult& made, const std::vector<JointGap>& gaps, const Transform& pose,
                                   double limit_deg) {
    size_t count = 0;
    double most = 0;
    Finding finding{.kind = FindingKind::LyingJoint, .count = 0, .says = {}};
    for (const JointGap& gap : gaps) {
        double area = 0, steepest = 0;
        Vec3 where = Vec3::Zero();
        for (const FacingSample& place : gap.places) {
            if (!hangs(place, pose, limit_deg)) continue;
            area += place.area_mm2;
            const double hang = hang_of(place, pose);
            if (hang > steepest) steepest = hang, where = place.at;
        }
        if (area < joint_hangs_from_mm2) continue;
        ++count;
        if (area <= most) continue;
        most = area;
        finding.where = pose * where;
        finding.says = "Between " + made.bodies[gap.a].called() + " and " + made.bodies[gap.b].called() + " " +
                       format_number(area, 0) + " mm² of the gap hang: what droops there closes it.";
    }
    if (count == 0) return std::nullopt;
    finding.count = count;
    return finding;
}

} // namespace lp
