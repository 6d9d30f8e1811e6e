#include "app/bed_layout.h"
#include "base/text.h"

namespace lp {
namespace {

/// Box of a mesh in its print pose, turned about the upright. Kept: every picture asks again.
Box3 posed_box(const std::shared_ptr<const TriMesh>& mesh, const Transform& pose, double turn_deg) {
    struct Known {
        std::weak_ptr<const TriMesh> mesh;
        Transform pose;
        std::map<double, Box3> by_turn;
    };
    static std::vector<Known> known; // of the interface thread
    std::erase_if(known, [](const Known& k) { return k.mesh.expired(); });
    auto at = std::find_if(known.begin(), known.end(), [&](const Known& k) { return k.mesh.lock() == mesh; });
    if (at == known.end()) at = known.insert(known.end(), Known{mesh, pose, {}});
    if (at->pose.matrix() != pose.matrix()) *at = Known{mesh, pose, {}};
    auto [box, fresh] = at->by_turn.try_emplace(turn_deg);
    if (fresh) {
        const Transform turned = Eigen::AngleAxisd(radians(turn_deg), Vec3::UnitZ()) * pose;
        for (const Vec3& v : mesh->vertices) box->second.extend(turned * v);
    }
    return box->second;
}

Box3 box_on_bed(const Session& session, const Part& part, double turn_deg) {
    const PartResult* made = session.results().evaluation()->part(part.id);
    if (!made || !made->mesh) return {};
    Box3 box = posed_box(made->mesh, session.results().pose_of(part.id), turn_deg);
    const PartAnalysis* known = session.results().analysis() ? session.results().analysis()->part(part.id) : nullptr;
    if (part.supports.any() && known && known->supports_shape) {
        const std::shared_ptr<const TriMesh> posts(known->supports_shape, &known->supports_shape->mesh);
        box.extend(posed_box(posts, Transform::Identity(), turn_deg)); // they are made under the part as it lies
    }
    return box;
}

} // namespace

QString words_of_beds(size_t things, size_t beds) {
    return QString::fromStdString(counted(things, "thing", "things") + " on " + counted(beds, "bed", "beds"));
}

BedLayout bed_layout(const Session& session) {
    constexpr int most_shown = 200;
    BedLayout layout;
    if (!session.results().evaluation()) return layout;
    const Vec3& bed = session.project()->printer.bed_mm;
    const BedPlan plan = bed_plan(
        *session.project(), [&](const Part& part, double turn_deg) { return box_on_bed(session, part, turn_deg); });
    layout.beds = plan.beds;
    for (const BedItem& item : plan.items) {
        if (item.copy >= most_shown) continue;
        const Vec3 corner = middle_of_bed(item.spot.bed, bed) - Vec3(bed.x() / 2, bed.y() / 2, 0);
        BedCopy copy{item.part, item.copy, {}, {}, item.spot, item.put, item.locked, item.wide_mm, item.past_border};
        copy.stand = Eigen::Translation3d(corner) * item.stand;
        copy.place = copy.stand * session.results().pose_of(item.part);
        layout.copies.push_back(copy);
    }
    return layout;
}

Transform on_its_bed(const Session& session, PartId part) {
    for (const BedCopy& copy : bed_layout(session).copies)
        if (copy.part == part) return copy.stand;
    return Transform::Identity();
}

} // namespace lp
