#include "steps/outlines/sink.h"
#include "base/tolerance.h"
#include "shape/edges_match.h"
#include "shape/occt_convert.h"
#include "shape/replace_faces.h"
#include "steps/solids/profile_shape.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <ElSLib.hxx>
#include <GProp_GProps.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <gp_Pln.hxx>
#include <set>

namespace lp {
namespace {

constexpr double clear_mm = 0.01; ///< nearer to a border or another face, a boolean has to look

class Sinker {
  public:
    Sinker(const Body& body, const std::vector<FlatRegion>& regions, const Transform& plane, double low, double high,
           bool cut, TagSource source)
        : body_(body), regions_(regions), plane_(plane), low_(low), high_(high), cut_(cut), source_(source) {}

    std::optional<Body> run() {
        flat_ = located(*body_.exact(), plane_.inverse());
        TopExp::MapShapes(flat_->shape, TopAbs_FACE, faces_);
        for (const FlatRegion& r : regions_) {
            Box2 box;
            for (const BoundaryCurve& c : r.outer) box.extend(c.curve.tight_box());
            boxes_.emplace_back(box.min() - Vec2(clear_mm, clear_mm), box.max() + Vec2(clear_mm, clear_mm));
            all_.extend(boxes_.back());
        }
        if (!find_face() || !all_clear()) return std::nullopt;
        auto made = build();
        if (!made) return std::nullopt;
        // The regions do not cross each other (they are faces of one arrangement), so beyond a few the kernel's check
        // of every wire against every other is left out: it takes longer than the rest. What can go wrong then is a
        // wall that is missing or turned over, and that the count of faces at each edge and the exact volume below
        // tell.
        bool sound = regions_.size() <= 12 ? BRepCheck_Analyzer(made->shape).IsValid() : edges_match(made->shape);
        if (!sound) return std::nullopt;
        Box3 box = body_.box();
        if (!cut_)
            for (const FlatRegion& r : regions_)
                for (const BoundaryCurve& c : r.outer) {
                    Box2 flat = c.curve.tight_box();
                    for (int corner = 0; corner < 4; ++corner)
                        box.extend(plane_ * Vec3(corner & 1 ? flat.max().x() : flat.min().x(),
                                                 corner & 2 ? flat.max().y() : flat.min().y(), high_));
                }
        // A pad on a turned plane has a box of its own shape: only the kernel knows it then.
        bool square = (plane_.linear().cwiseAbs().array() > 1e-9).count() == 3;
        auto body = Body::from_exact(located(*made, plane_), cut_ || square ? std::optional(box) : std::nullopt);
        if (!body) return std::nullopt;
        double want = body_.mass().volume_mm3;
        for (const FlatRegion& r : regions_) want += (cut_ ? -1 : 1) * r.area_mm2 * (high_ - low_);
        if (std::fabs(body->mass().volume_mm3 - want) > 1e-5 * std::fabs(want) || body->pieces() != body_.pieces())
            return std::nullopt;
        return *body;
    }

  private:
    /// The face in the plane z = 0 that looks up and holds all regions.
    bool find_face() {
        for (int i = 1; i <= faces_.Extent(); ++i) {
            TopoDS_Face face = TopoDS::Face(faces_(i));
            BRepAdaptor_Surface surface(face, false);
            if (surface.GetType() != GeomAbs_Plane) continue;
            gp_Pln plane = surface.Plane();
            gp_Dir normal = plane.Axis().Direction();
            if (!plane.Direct()) normal.Reverse();
            bool up = (face.Orientation() == TopAbs_REVERSED ? -normal.Z() : normal.Z()) > 1 - 1e-9;
            if (!up || std::fabs(plane.Location().Z()) > 1e-6) continue;
            BRepTopAdaptor_FClass2d inside(face, 1e-7);
            bool holds = true;
            for (const FlatRegion& r : regions_) {
                double u, v;
                ElSLib::Parameters(plane, gp_Pnt(r.inside.x(), r.inside.y(), 0), u, v);
                holds = holds && inside.Perform(gp_Pnt2d(u, v)) == TopAbs_IN;
            }
            if (!holds) continue;
            face_ = face;
            normal_up_ = normal.Z() > 0;
            return true;
        }
        return false;
    }

    bool near_any(const Box2& box) const {
        if (!all_.intersects(box)) return false;
        return std::any_of(boxes_.begin(), boxes_.end(), [&](const Box2& mine) { return mine.intersects(box); });
    }

    bool all_clear() {
        // The face's own border stays out of every region's box.
        for (TopExp_Explorer it(face_, TopAbs_EDGE); it.More(); it.Next()) {
            BRepAdaptor_Curve curve(TopoDS::Edge(it.Current()));
            int steps = curve.GetType() == GeomAbs_Line ? 1 : 48;
            double a = curve.FirstParameter(), b = curve.LastParameter();
            gp_Pnt last = curve.Value(a);
            for (int k = 1; k <= steps; ++k) {
                gp_Pnt next = curve.Value(a + (b - a) * k / steps);
                Box2 box(Vec2(std::min(last.X(), next.X()), std::min(last.Y(), next.Y())),
                         Vec2(std::max(last.X(), next.X()), std::max(last.Y(), next.Y())));
                double sag = steps > 1 ? 0.05 * box.sizes().norm() : 0;
                if (steps == 1 ? crosses_any({last.X(), last.Y()}, {next.X(), next.Y()})
                               : near_any(Box2(box.min() - Vec2(sag, sag), box.max() + Vec2(sag, sag))))
                    return false;
                last = next;
            }
        }
        // No other face comes into the prisms' boxes.
        for (int i = 1; i <= faces_.Extent(); ++i) {
            if (faces_(i).IsSame(face_)) continue;
            Bnd_Box box;
            BRepBndLib::Add(faces_(i), box, false);
            if (box.IsVoid()) continue;
            double x0, y0, z0, x1, y1, z1;
            box.Get(x0, y0, z0, x1, y1, z1);
            if (z1 < low_ - clear_mm || z0 > high_ + clear_mm) continue;
            if (near_any(Box2(Vec2(x0, y0), Vec2(x1, y1)))) doubtful_.insert(uint32_t(i - 1));
        }
        return doubtful_.empty() || triangles_clear();
    }

    /// A round wall's box holds what its surface goes round: there the triangles are asked.
    bool triangles_clear() const {
        const Tessellation& t = body_.tessellation();
        if (t.faces.size() != size_t(faces_.Extent())) return false;
        Transform to_flat = plane_.inverse();
        const double slack = clear_mm + tolerance::export_deflection_mm;
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
            if (!doubtful_.count(t.face_of[i])) continue;
            Box3 box;
            for (uint32_t v : t.mesh.triangles[i]) box.extend(to_flat * t.mesh.vertices[v]);
            if (box.max().z() < low_ - slack || box.min().z() > high_ + slack) continue;
            Vec2 wide(slack, slack);
            if (near_any(Box2(box.min().head<2>() - wide, box.max().head<2>() + wide))) return false;
        }
        return true;
    }

    /// A straight border may pass the box of all regions, not the box of one.
    bool crosses_any(const Vec2& a, const Vec2& b) const {
        for (const Box2& box : boxes_) {
            double from = 0, to = 1;
            bool out = false;
            for (int k = 0; k < 2 && !out; ++k) {
                double d = b[k] - a[k];
                if (std::fabs(d) < 1e-12) {
                    out = a[k] < box.min()[k] || a[k] > box.max()[k];
                    continue;
                }
                double s = (box.min()[k] - a[k]) / d, t = (box.max()[k] - a[k]) / d;
                from = std::max(from, std::min(s, t));
                to = std::min(to, std::max(s, t));
            }
            if (!out && from <= to) return true;
        }
        return false;
    }

    std::optional<ExactShape> build() {
        auto profiles = profile_faces(regions_);
        if (!profiles) return std::nullopt;
        ExactShape result;
        result.births = flat_->births;
        for (int i = 1; i <= faces_.Extent(); ++i)
            if (const TagSet* tags = flat_->tags.Seek(faces_(i)); tags && !faces_(i).IsSame(face_))
                result.tags.Bind(faces_(i), *tags);
        const TagSet* own = flat_->tags.Seek(face_);
        BRep_Builder builder;
        // The face anew: its old wires and one more for each region, running the other way round.
        std::vector<TopoDS_Wire> openings;
        std::vector<TopoDS_Shape> fresh;
        auto role_tag = [&](const TopoDS_Shape& face, FaceRole role, SourceKey key) {
            result.tags.Bind(face, {intern_tag({source_.step, role, key, source_.copy, 0})});
        };
        gp_Vec way(0, 0, cut_ ? low_ : high_);
        for (const ProfileFace& f : *profiles) {
            BRepPrimAPI_MakePrism prism(f.face, way);
            openings.push_back(normal_up_ ? TopoDS::Wire(f.outer.wire.Reversed()) : f.outer.wire);
            // A prism drawn down is inside out as a body of its own, which is right for a pocket's walls either way:
            // orientations are taken from a solid that looks outward, and turned for a pocket.
            auto walls = [&](const ProfileLoop& loop) {
                for (const ProfileEdge& e : loop.edges)
                    for (const TopoDS_Shape& wall : prism.Generated(e.edge)) {
                        fresh.push_back(in_solid(prism.Shape(), wall));
                        role_tag(fresh.back(), FaceRole::Side, e.key);
                    }
            };
            walls(f.outer);
            for (const ProfileLoop& hole : f.holes) {
                walls(hole);
                // What a letter leaves standing: a piece of the old face.
                TopoDS_Face island = TopoDS::Face(face_.EmptyCopied().Oriented(TopAbs_FORWARD));
                builder.Add(island, normal_up_ ? hole.wire.Reversed() : TopoDS_Shape(hole.wire));
                island.Orientation(face_.Orientation());
                if (own) result.tags.Bind(island, *own);
                islands_.push_back(island);
            }
            fresh.push_back(in_solid(prism.Shape(), prism.LastShape()));
            role_tag(fresh.back(), cut_ ? FaceRole::Bottom : FaceRole::Top, 0);
            Vec2 size = f.box.sizes();
            BirthFrame birth;
            if (cut_) birth.frame.linear() << Vec3::UnitX(), -Vec3::UnitY(), -Vec3::UnitZ();
            birth.frame.translation() = Vec3(0, 0, cut_ ? low_ : high_);
            birth.size = {size.x(), size.y(), 0};
            result.births.emplace(
                intern_tag({source_.step, cut_ ? FaceRole::Bottom : FaceRole::Top, 0, source_.copy, 0}), birth);
        }
        TopoDS_Face opened = opened_face(face_, openings);
        if (own) result.tags.Bind(opened, *own);
        // The shell that had the face gets the new ones in its place.
        std::vector<TopoDS_Shape> now{opened};
        now.insert(now.end(), islands_.begin(), islands_.end());
        now.insert(now.end(), fresh.begin(), fresh.end());
        bool placed = false;
        result.shape = with_faces_replaced(flat_->shape, [&](const TopoDS_Shape& face) {
            if (!face.IsSame(face_)) return std::vector<TopoDS_Shape>{face};
            placed = true;
            return now;
        });
        if (!placed) return std::nullopt;
        return result;
    }

    /// The face as it is oriented in the prism, turned over for a pocket.
    TopoDS_Shape in_solid(const TopoDS_Shape& prism, const TopoDS_Shape& face) {
        if (!prism.IsSame(prism_)) {
            prism_ = prism;
            orientation_.Clear();
            TopExp::MapShapes(prism, TopAbs_FACE, orientation_);
            // A prism drawn against the face's normal comes out inside out or not, by the kernel's choice: the volume
            // of one tells it of all, as they are made alike.
            if (!inside_out_) {
                GProp_GProps volume;
                BRepGProp::VolumeProperties(prism, volume);
                inside_out_ = volume.Mass() < 0;
            }
        }
        TopoDS_Shape found = orientation_(orientation_.FindIndex(face));
        return cut_ != *inside_out_ ? found.Reversed() : found;
    }

    const Body& body_;
    const std::vector<FlatRegion>& regions_;
    const Transform& plane_;
    double low_, high_;
    bool cut_;
    TagSource source_;
    std::shared_ptr<ExactShape> flat_;
    TopTools_IndexedMapOfShape faces_, orientation_;
    std::vector<Box2> boxes_;
    std::set<uint32_t> doubtful_; ///< other faces whose boxes meet a region's
    Box2 all_;
    TopoDS_Face face_;
    TopoDS_Shape prism_;
    std::vector<TopoDS_Face> islands_;
    bool normal_up_ = true;
    std::optional<bool> inside_out_;
};

} // namespace

std::optional<Body> sink_directly(const Body& body, const std::vector<FlatRegion>& regions, const Transform& plane,
                                  double low, double high, bool cut, TagSource tags) {
    if (!body.is_exact() || regions.empty()) return std::nullopt;
    auto result = guard_kernel("sinking an outline", [&]() -> Expected<std::optional<Body>> {
        return Sinker(body, regions, plane, low, high, cut, tags).run();
    });
    return result ? *result : std::nullopt;
}

} // namespace lp
