#include "steps/outlines/swept_shape.h"
#include "base/quantity.h"
#include "base/turn_between.h"
#include "shape/occt_convert.h"
#include "steps/solids/profile_shape.h"
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepOffsetAPI_MakePipeShell.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <gp_Ax2.hxx>

namespace lp {
namespace {

/// Points and tangents along a path in space.
struct Station {
    Vec3 at, tangent;
    double along = 0;
};

TopoDS_Wire placed_wire(const TopoDS_Wire& wire, const gp_Trsf& move) {
    return TopoDS::Wire(BRepBuilderAPI_Transform(wire, move, true).Shape());
}

void tag(ExactShape& shape, const TopoDS_Shape& face, TagSource source, FaceRole role, uint64_t key) {
    if (!face.IsNull() && face.ShapeType() == TopAbs_FACE && !shape.tags.IsBound(face))
        shape.tags.Bind(face, {intern_tag({source.step, role, key, source.copy, 0})});
}

void tag_rest(ExactShape& shape, TagSource source) {
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(shape.shape, TopAbs_FACE, faces);
    for (int i = 1; i <= faces.Extent(); ++i) tag(shape, faces(i), source, FaceRole::Side, uint64_t(i));
}

/// Solid of a loop minus solids of the holes, names carried.
ExactShape without_holes(ExactShape outer, const std::vector<ExactShape>& holes) {
    if (holes.empty()) return outer;
    BRepAlgoAPI_Cut cut;
    TopTools_ListOfShape a, b;
    a.Append(outer.shape);
    for (const ExactShape& hole : holes) b.Append(hole.shape);
    cut.SetArguments(a);
    cut.SetTools(b);
    cut.Build();
    ExactShape result;
    result.shape = cut.Shape();
    result.births = outer.births;
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(result.shape, TopAbs_FACE, faces);
    auto carry = [&](const ExactShape& from) {
        for (FaceTags::Iterator it(from.tags); it.More(); it.Next()) {
            for (const TopoDS_Shape& face : cut.Modified(it.Key()))
                if (faces.Contains(face) && !result.tags.IsBound(face)) result.tags.Bind(face, it.Value());
            if (faces.Contains(it.Key()) && !result.tags.IsBound(it.Key())) result.tags.Bind(it.Key(), it.Value());
        }
    };
    carry(outer);
    for (const ExactShape& hole : holes) carry(hole);
    return result;
}

class Sweeper {
  public:
    Sweeper(const std::vector<FlatRegion>& regions, const Transform& plane, const std::vector<SourcedCurve>& path,
            const Transform& path_plane, const SweepOptions& options, TagSource source)
        : regions_(regions), plane_(plane), path_(path), path_plane_(path_plane), o_(options), source_(source) {}

    Expected<Body> run() {
        orient();
        if (auto wrong = check_bends()) return pass_on(*wrong);
        auto faces = profile_faces(regions_);
        if (!faces) return pass_on(faces);
        bool plain = std::fabs(o_.twist_deg) < 1e-9 && std::fabs(o_.scale - 1) < 1e-9;
        if (!plain && corners_)
            return problem(ProblemCode::Geometry, "A path with corners cannot be twisted or scaled along.",
                           "Round its corners with fillets.");
        std::vector<ExactShape> solids;
        for (const ProfileFace& face : *faces) {
            auto outer = plain ? pipe(face.outer) : through_stations(face.outer);
            if (!outer) return pass_on(outer);
            std::vector<ExactShape> holes;
            for (const ProfileLoop& hole : face.holes) {
                auto inner = plain ? pipe(hole) : through_stations(hole);
                if (!inner) return pass_on(inner);
                holes.push_back(*inner);
            }
            solids.push_back(without_holes(*outer, holes));
            tag_rest(solids.back(), source_);
        }
        return finish_profile_body(gather(solids), Transform::Identity(), wanted_volume(plain), 5e-3, "swept outline");
    }

  private:
    /// The path begins at the end nearer to the section.
    void orient() {
        Vec3 centre = Vec3::Zero();
        for (const FlatRegion& r : regions_)
            centre += plane_ * Vec3(r.inside.x(), r.inside.y(), 0) / double(regions_.size());
        auto world = [&](const Vec2& p) { return Vec3(path_plane_ * Vec3(p.x(), p.y(), 0)); };
        if ((world(path_.back().curve.last()) - centre).norm() <
            (world(path_.front().curve.first()) - centre).norm() - 1e-9) {
            std::reverse(path_.begin(), path_.end());
            for (SourcedCurve& c : path_) c.curve = c.curve.reversed();
        }
        if (o_.longer_mm > 0) {
            Vec2 a = path_.front().curve.first(), u = path_.front().curve.derivative(0).normalized();
            Vec2 b = path_.back().curve.last(),
                 v = path_.back().curve.derivative(path_.back().curve.end()).normalized();
            SourcedCurve before, after;
            before.curve = Curve::line(a - u * o_.longer_mm, a);
            after.curve = Curve::line(b, b + v * o_.longer_mm);
            path_.insert(path_.begin(), before);
            path_.push_back(after);
            // The section starts that much earlier.
            Vec3 back = path_plane_.linear() * Vec3(u.x(), u.y(), 0) * -o_.longer_mm;
            plane_.pretranslate(back);
        }
        for (const SourcedCurve& c : path_) length_ += c.curve.length();
        for (size_t i = 0; i + 1 < path_.size(); ++i) {
            Vec2 u = path_[i].curve.derivative(path_[i].curve.end()).normalized(),
                 v = path_[i + 1].curve.derivative(0).normalized();
            if (std::fabs(cross2(u, v)) > 1e-4 || u.dot(v) < 0) corners_ = true;
        }
    }

    std::optional<Problem> check_bends() const {
        // How far the section reaches to each side of the path's beginning, in the plane of the path.
        Vec2 a = path_.front().curve.first(), u = path_.front().curve.derivative(0).normalized();
        Transform to_path = path_plane_.inverse() * plane_;
        double left = 0, right = 0;
        for (const FlatRegion& r : regions_)
            for (const Vec2& p : flatten(curves_of(r.outer), 1e-2)) {
                Vec3 q = to_path * Vec3(p.x(), p.y(), 0);
                double side = cross2(u, q.head<2>() - a);
                left = std::max(left, side);
                right = std::max(right, -side);
            }
        if (o_.upright) return std::nullopt;
        for (const SourcedCurve& c : path_) {
            if (c.curve.kind == Curve::Kind::Line) continue;
            for (double t : c.curve.stations(1e-2)) {
                double h = 1e-4 * c.curve.end(), s = std::clamp(t, h, c.curve.end() - h);
                Vec2 d = c.curve.derivative(s), dd = (c.curve.derivative(s + h) - c.curve.derivative(s - h)) / (2 * h);
                double bend = cross2(d, dd) / std::pow(d.norm(), 3);
                double reach = (bend > 0 ? left : right) * std::max(1.0, o_.scale);
                if (std::fabs(bend) * reach < 1 - 1e-9) continue;
                Vec2 at = c.curve.at(s);
                return Problem{ProblemCode::Geometry,
                               "The path bends with a radius of " +
                                   format_quantity(1 / std::fabs(bend), QuantityKind::Length) +
                                   ", and the outline reaches " + format_quantity(reach, QuantityKind::Length) +
                                   " towards the bend.",
                               "Give the path a wider bend, or make the outline smaller.",
                               path_plane_ * Vec3(at.x(), at.y(), 0),
                               {}};
            }
        }
        return std::nullopt;
    }

    /// Known when the section's middle runs along the path (Pappus): area times length.
    std::optional<double> wanted_volume(bool plain) const {
        if (!plain || o_.upright || regions_.size() != 1) return std::nullopt;
        Vec2 a = path_.front().curve.first(), u = path_.front().curve.derivative(0).normalized();
        Transform to_path = path_plane_.inverse() * plane_;
        Vec3 normal = to_path.linear().col(2);
        double square = std::fabs(normal.head<2>().dot(u));
        Vec2 moment = Vec2::Zero(), origin = regions_[0].inside;
        double area = 0;
        auto add = [&](const BoundaryLoop& loop) {
            std::vector<Vec2> p = flatten(curves_of(loop), 1e-3);
            for (size_t i = 0; i < p.size(); ++i) {
                Vec2 s = p[i] - origin, t = p[(i + 1) % p.size()] - origin;
                moment += cross2(s, t) * (s + t) / 6;
                area += cross2(s, t) / 2;
            }
        };
        add(regions_[0].outer);
        for (const BoundaryLoop& hole : regions_[0].holes) add(hole);
        Vec2 middle = origin + moment / area;
        Vec3 q = to_path * Vec3(middle.x(), middle.y(), 0);
        if (std::fabs(cross2(u, q.head<2>() - a)) > 1e-3 * length_) return std::nullopt;
        return regions_[0].area_mm2 * length_ * square;
    }

    ProfileLoop spine() const {
        BoundaryLoop loop;
        for (const SourcedCurve& c : path_) {
            BoundaryCurve b;
            b.curve = c.curve;
            b.key = c.key;
            loop.push_back(b);
        }
        bool closed = (path_.front().curve.first() - path_.back().curve.last()).norm() < 1e-6;
        return profile_loop(loop, closed);
    }

    Expected<ExactShape> pipe(const ProfileLoop& loop) {
        TopoDS_Wire way = placed_wire(spine().wire, to_trsf(path_plane_));
        gp_Trsf place = to_trsf(plane_);
        BRepBuilderAPI_Transform transform(loop.wire, place, true);
        BRepOffsetAPI_MakePipeShell pipe(way);
        if (o_.upright) {
            pipe.SetMode(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1), gp_Dir(1, 0, 0)));
        } else {
            Vec3 n = path_plane_.linear().col(2);
            pipe.SetMode(gp_Dir(n.x(), n.y(), n.z()));
        }
        pipe.SetTransitionMode(BRepBuilderAPI_RightCorner);
        pipe.Add(transform.Shape(), false, false);
        if (!pipe.IsReady())
            return problem(ProblemCode::Geometry, "The outline cannot be swept along that path.",
                           "Draw the path from the middle of the outline, square to it.");
        pipe.Build();
        if (!pipe.IsDone() || !pipe.MakeSolid())
            return problem(ProblemCode::Geometry, "The outline cannot be swept along that path.",
                           "Draw the path from the middle of the outline, square to it.");
        ExactShape solid;
        solid.shape = pipe.Shape();
        for (const ProfileEdge& e : loop.edges) {
            // A path of several curves gives several walls of one name; their neighbours tell them apart.
            for (const TopoDS_Shape& wall : pipe.Generated(transform.ModifiedShape(e.edge)))
                tag(solid, wall, source_, FaceRole::Side, e.key);
        }
        tag(solid, pipe.FirstShape(), source_, FaceRole::Bottom, 0);
        tag(solid, pipe.LastShape(), source_, FaceRole::Top, 0);
        return solid;
    }

    std::vector<Station> stations() const {
        std::vector<Station> result;
        double turn = std::fabs(o_.twist_deg);
        int wanted = std::clamp(std::max(int(std::ceil(turn / 6)), 12), 2, 400);
        double along = 0;
        for (size_t i = 0; i < path_.size(); ++i) {
            const Curve& c = path_[i].curve;
            double own = c.length();
            int steps = std::max(1, int(std::ceil(wanted * own / length_)));
            if (c.kind != Curve::Kind::Line) steps = std::max(steps, int(c.stations(0.01).size()) - 1);
            for (int k = i == 0 ? 0 : 1; k <= steps; ++k) {
                double t = c.end() * k / steps;
                Vec2 p = c.at(t), d = c.derivative(t).normalized();
                result.push_back({path_plane_ * Vec3(p.x(), p.y(), 0), path_plane_.linear() * Vec3(d.x(), d.y(), 0),
                                  (along + c.part(0, std::max(t, 1e-12)).length()) / length_});
            }
            along += own;
        }
        return result;
    }

    Expected<ExactShape> through_stations(const ProfileLoop& loop) {
        BRepOffsetAPI_ThruSections loft(true, false, 1e-5);
        loft.CheckCompatibility(false);
        loft.SetSmoothing(false);
        std::vector<Station> all = stations();
        Vec3 first = all[0].at;
        Eigen::Quaterniond turn = Eigen::Quaterniond::Identity();
        for (size_t i = 0; i < all.size(); ++i) {
            if (i > 0 && !o_.upright) turn = turn_between(all[i - 1].tangent, all[i].tangent) * turn;
            double s = all[i].along;
            Vec3 axis = o_.upright ? Vec3(plane_.linear().col(2)) : all[0].tangent;
            // Scaled and twisted about the path's beginning, turned with the path, carried along it.
            Eigen::Affine3d move = Eigen::Affine3d::Identity();
            move.translate(all[i].at);
            move.rotate(turn);
            move.rotate(Eigen::AngleAxisd(radians(o_.twist_deg) * s, axis.normalized()));
            move.translate(-first);
            Transform rigid = Transform::Identity();
            rigid.matrix() = move.matrix();
            gp_Trsf scale;
            Vec3 foot = plane_.inverse() * first;
            scale.SetScale(gp_Pnt(foot.x(), foot.y(), foot.z()), 1 + (o_.scale - 1) * s);
            loft.AddWire(placed_wire(loop.wire, to_trsf(rigid * plane_) * scale));
        }
        loft.Build();
        if (!loft.IsDone())
            return problem(ProblemCode::Geometry, "The twisted sweep does not come out.",
                           "Use less twist, or a smoother path.");
        ExactShape solid;
        solid.shape = loft.Shape();
        tag(solid, loft.FirstShape(), source_, FaceRole::Bottom, 0);
        tag(solid, loft.LastShape(), source_, FaceRole::Top, 0);
        // Walls come in the order of the section's edges.
        size_t wall = 0;
        for (TopExp_Explorer it(solid.shape, TopAbs_FACE); it.More(); it.Next()) {
            if (solid.tags.IsBound(it.Current())) continue;
            if (wall < loop.edges.size()) tag(solid, it.Current(), source_, FaceRole::Side, loop.edges[wall].key);
            ++wall;
        }
        return solid;
    }

    const std::vector<FlatRegion>& regions_;
    Transform plane_;
    std::vector<SourcedCurve> path_;
    const Transform& path_plane_;
    const SweepOptions& o_;
    TagSource source_;
    double length_ = 0;
    bool corners_ = false;
};

} // namespace

Expected<Body> swept_body(const std::vector<FlatRegion>& regions, const Transform& plane,
                          const std::vector<SourcedCurve>& path, const Transform& path_plane,
                          const SweepOptions& options, TagSource tags) {
    return guard_kernel("sweeping the outline",
                        [&] { return Sweeper(regions, plane, path, path_plane, options, tags).run(); });
}

Expected<Body> lofted_body(const std::vector<LoftSection>& sections, bool straight, TagSource source) {
    if (sections.size() < 2)
        return problem(ProblemCode::Missing, "A loft needs two outlines or more.", "Name them, with commas between.");
    for (size_t i = 0; i + 1 < sections.size(); ++i)
        if ((sections[i].plane.translation() - sections[i + 1].plane.translation())
                    .dot(sections[i].plane.linear().col(2)) > -1e-6 &&
            (sections[i].plane.translation() - sections[i + 1].plane.translation()).norm() < 1e-6)
            return problem(ProblemCode::Geometry, "Two outlines of the loft lie in one plane.",
                           "Give one of them a distance.");
    return guard_kernel("lofting", [&]() -> Expected<Body> {
        size_t holes = sections[0].region.holes.size();
        for (const LoftSection& s : sections)
            if (s.region.holes.size() != holes)
                return problem(ProblemCode::Geometry, "The outlines of the loft have different numbers of holes.",
                               "Draw as many in each.");
        auto loop_solid = [&](int which) -> Expected<ExactShape> {
            BRepOffsetAPI_ThruSections loft(true, straight || sections.size() == 2, 1e-5);
            loft.CheckCompatibility(true);
            std::vector<ProfileEdge> first;
            for (const LoftSection& s : sections) {
                ProfileLoop loop = profile_loop(which < 0 ? s.region.outer : s.region.holes[size_t(which)], true);
                if (first.empty()) first = loop.edges;
                loft.AddWire(placed_wire(loop.wire, to_trsf(s.plane)));
            }
            loft.Build();
            if (!loft.IsDone())
                return problem(ProblemCode::Geometry, "The loft does not come out.",
                               "Draw the outlines so that their corners correspond.");
            ExactShape solid;
            solid.shape = loft.Shape();
            tag(solid, loft.FirstShape(), source, FaceRole::Bottom, 0);
            tag(solid, loft.LastShape(), source, FaceRole::Top, 0);
            tag_rest(solid, source);
            return solid;
        };
        auto outer = loop_solid(-1);
        if (!outer) return pass_on(outer);
        std::vector<ExactShape> inner;
        for (size_t k = 0; k < holes; ++k) {
            auto hole = loop_solid(int(k));
            if (!hole) return pass_on(hole);
            inner.push_back(*hole);
        }
        ExactShape solid = without_holes(*outer, inner);
        tag_rest(solid, source);
        return finish_profile_body(gather({solid}), Transform::Identity(), std::nullopt, 0, "loft");
    });
}

} // namespace lp
