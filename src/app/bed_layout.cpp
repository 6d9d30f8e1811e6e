#include "app/bed_layout.h"
#include "bed/bed_rows.h"

namespace lp {
namespace {

/// Box of a part's triangles in its print pose. Kept: every picture asks again.
Box3 posed_box(const std::shared_ptr<const TriMesh>& mesh, const Transform& pose) {
    struct Known {
        std::weak_ptr<const TriMesh> mesh;
        Transform pose;
        Box3 box;
    };
    static std::vector<Known> known; // of the interface thread
    std::erase_if(known, [](const Known& k) { return k.mesh.expired(); });
    for (const Known& k : known)
        if (k.mesh.lock() == mesh && k.pose.matrix() == pose.matrix()) return k.box;
    Box3 box;
    for (const Vec3& v : mesh->vertices) box.extend(pose * v);
    std::erase_if(known, [&](const Known& k) { return k.mesh.lock() == mesh; });
    known.push_back({mesh, pose, box});
    return box;
}

} // namespace

Vec3 to_next_bed(const Vec3& bed_mm) {
    return {bed_mm.x() + 30, 0, 0};
}

BedLayout bed_layout(const Session& session) {
    BedLayout layout;
    const Evaluation* evaluation = session.results().evaluation();
    if (!evaluation) return layout;
    const Vec3& bed = session.project()->printer.bed_mm;
    std::vector<Vec3> sizes, middles;
    for (const PartPtr& part : session.project()->parts) {
        const PartResult* made = evaluation->part(part->id);
        if (part->stand_in || !made || !made->mesh) continue;
        const Transform pose = session.results().pose_of(part->id);
        Box3 box = posed_box(made->mesh, pose);
        const PartAnalysis* known =
            session.results().analysis() ? session.results().analysis()->part(part->id) : nullptr;
        if (part->supports.on && known && known->supports_shape) box.extend(bounding_box(known->supports_shape->mesh));
        for (int copy = 0; copy < std::clamp(part->quantity, 0, 200); ++copy) {
            layout.copies.push_back({part->id, copy, pose, Vec3::Zero()});
            sizes.push_back(box.sizes());
            middles.push_back(Vec3(box.center().x(), box.center().y(), 0));
        }
    }
    const auto places = places_in_rows(sizes, bed);
    std::vector<Box2> used; // of each bed: what stands there is shown in its middle
    for (size_t i = 0; i < places.size(); ++i) {
        used.resize(std::max(used.size(), places[i].bed + 1));
        const Vec2 at = places[i].at.head<2>(), half = sizes[i].head<2>() / 2;
        used[places[i].bed].extend(Vec2(at - half));
        used[places[i].bed].extend(Vec2(at + half));
    }
    for (size_t i = 0; i < places.size(); ++i) {
        const Vec2 middle = used[places[i].bed].center();
        BedCopy& copy = layout.copies[i];
        copy.shift =
            places[i].at - Vec3(middle.x(), middle.y(), 0) - middles[i] + double(places[i].bed) * to_next_bed(bed);
        copy.place = Eigen::Translation3d(copy.shift) * copy.place;
        layout.beds = std::max(layout.beds, places[i].bed + 1);
    }
    return layout;
}

Transform on_its_bed(const Session& session, PartId part) {
    for (const BedCopy& copy : bed_layout(session).copies)
        if (copy.part == part) return Transform(Eigen::Translation3d(copy.shift));
    return Transform::Identity();
}

} // namespace lp
