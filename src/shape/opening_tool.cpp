#include "shape/opening_tool.h"
#include "base/tolerance.h"
#include "shape/exact_boolean.h"
#include "shape/exact_shape.h"
#include "shape/kernel_guard.h"
#include "shape/occt_convert.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepLProp_SLProps.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepTools.hxx>
#include <BRepTools_History.hxx>
#include <BRep_Tool.hxx>
#include <ElSLib.hxx>
#include <Geom2d_Curve.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Vertex.hxx>
#include <gp_Ax1.hxx>
#include <gp_Circ.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>

namespace lp {
namespace {

constexpr double smooth_deg = 1.5;
constexpr double beyond_mm = 0.01; ///< bands reach this far past what they are cut from

/// An edge of a face, and what is on its other side.
struct Side {
    TopoDS_Edge edge;
    TopoDS_Face other;
    Vec3 at = Vec3::Zero(), normal = Vec3::Zero(), other_normal = Vec3::Zero(); ///< at a place of it
    Vec3 along = Vec3::Zero(); ///< the face is on the left of it, seen from outside
    bool smooth = false, stands_out = false;
    double turn() const { return std::acos(std::clamp(normal.dot(other_normal), -1.0, 1.0)); }
};

class Neighbours {
  public:
    explicit Neighbours(const TopoDS_Shape& shape) {
        TopExp::MapShapes(shape, TopAbs_FACE, faces_);
        TopExp::MapShapesAndAncestors(shape, TopAbs_EDGE, TopAbs_FACE, of_edge_);
    }
    TopoDS_Face face(size_t index) const { return TopoDS::Face(faces_(int(index) + 1)); }
    int count() const { return faces_.Extent(); }

    std::vector<Side> sides(const TopoDS_Face& face) const {
        std::vector<Side> all;
        for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge& edge = TopoDS::Edge(it.Current());
            if (BRep_Tool::Degenerated(edge)) continue;
            for (const TopoDS_Shape& other : of_edge_.FindFromKey(edge)) {
                if (other.IsSame(face)) continue;
                if (auto side = side_at(face, edge, TopoDS::Face(other), 0.4)) all.push_back(*side);
                break;
            }
        }
        return all;
    }

    static std::optional<Vec3> normal(const TopoDS_Edge& edge, const TopoDS_Face& face, double share) {
        double a, b;
        Handle(Geom2d_Curve) curve = BRep_Tool::CurveOnSurface(edge, face, a, b);
        if (curve.IsNull()) return std::nullopt;
        gp_Pnt2d at = curve->Value(a + (b - a) * share);
        gp_Pnt p;
        gp_Vec n;
        BRepGProp_Face(face).Normal(at.X(), at.Y(), p, n);
        if (n.Magnitude() < 1e-12) return std::nullopt;
        n.Normalize();
        return Vec3(n.X(), n.Y(), n.Z());
    }

  private:
    static std::optional<Side> side_at(const TopoDS_Face& face, const TopoDS_Edge& edge, const TopoDS_Face& other,
                                       double share) {
        auto n = normal(edge, face, share), m = normal(edge, other, share);
        if (!n || !m) return std::nullopt;
        BRepAdaptor_Curve curve(edge);
        gp_Pnt p;
        gp_Vec d;
        curve.D1(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * share, p, d);
        if (edge.Orientation() == TopAbs_REVERSED) d.Reverse();
        if (d.Magnitude() < 1e-12) return std::nullopt;
        d.Normalize();
        Side side{edge, other, to_vec(p), *n, *m, Vec3(d.X(), d.Y(), d.Z())};
        side.smooth = side.turn() < radians(smooth_deg);
        side.stands_out = m->dot(n->cross(side.along)) < 0;
        return side;
    }

    TopTools_IndexedMapOfShape faces_;
    TopTools_IndexedDataMapOfShapeListOfShape of_edge_;
};

/// Radius of a rolling ball's surface that is told as a free one, as the kernel makes it along what is nearly a plane
/// or a cylinder: the same greatest curvature everywhere. 0 for other faces, and where it is hollow.
double free_round(const TopoDS_Face& face, double u0, double u1, double v0, double v1) {
    BRepAdaptor_Surface s(face, false);
    double radius = 0;
    for (double u : {0.2, 0.5, 0.8})
        for (double v : {0.2, 0.5, 0.8}) {
            BRepLProp_SLProps at(s, u0 + (u1 - u0) * u, v0 + (v1 - v0) * v, 2, 1e-9);
            if (!at.IsCurvatureDefined()) return 0;
            const double a = at.MinCurvature(), b = at.MaxCurvature(), most = std::fabs(a) > std::fabs(b) ? a : b;
            // Curvature is told against the surface's normal; a face may look the other way.
            const double bends = face.Orientation() == TopAbs_REVERSED ? most : -most;
            if (bends < 1e-4) return 0;
            if (radius > 0 && std::fabs(1 / bends - radius) > 1e-3 * radius) return 0;
            radius = 1 / bends;
        }
    return radius;
}

/// Radius of a round that stands out; 0 for other faces.
double outer_round(const TopoDS_Face& face) {
    BRepAdaptor_Surface s(face, false);
    double u0, u1, v0, v1;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    gp_Pnt p;
    gp_Vec n;
    BRepGProp_Face(face).Normal((u0 + u1) / 2, (v0 + v1) / 2, p, n);
    auto foot = [&](const gp_Ax1& axis) {
        gp_Vec along(axis.Direction());
        return axis.Location().Translated(along * gp_Vec(axis.Location(), p).Dot(along));
    };
    gp_Pnt centre;
    double radius = 0;
    if (s.GetType() == GeomAbs_Cylinder) {
        centre = foot(s.Cylinder().Axis());
        radius = s.Cylinder().Radius();
    } else if (s.GetType() == GeomAbs_Sphere) {
        centre = s.Sphere().Location();
        radius = s.Sphere().Radius();
    } else if (s.GetType() == GeomAbs_Torus) {
        gp_Pnt middle = foot(s.Torus().Axis());
        gp_Vec out(middle, p);
        if (out.Magnitude() < 1e-9) return 0;
        // The tube's centre lies on the ring's plane, not beside the place.
        gp_Vec across = out.Normalized() * s.Torus().MajorRadius();
        centre = s.Torus().Axis().Location().Translated(across);
        radius = s.Torus().MinorRadius();
    } else if (s.GetType() == GeomAbs_BSplineSurface || s.GetType() == GeomAbs_BezierSurface) {
        return free_round(face, u0, u1, v0, v1);
    }
    return radius > 0 && gp_Vec(centre, p).Dot(n) > 0 ? radius : 0;
}

/// Whether a face is a round that stands out, runs on smoothly and is no larger than the wall.
bool has_no_inside(const Neighbours& neighbours, const TopoDS_Face& face, double wall) {
    const double radius = outer_round(face);
    if (!(radius > 0 && radius <= wall * (1 + 1e-3))) return false;
    auto sides = neighbours.sides(face);
    return std::any_of(sides.begin(), sides.end(), [](const Side& side) { return side.smooth; });
}

struct OpeningMaker {
    const Neighbours& neighbours;
    const Body& body;
    const Opening& wish;
    TopoDS_Face face = neighbours.face(wish.face);
    double depth_mm =
        std::find(wish.other.begin(), wish.other.end(), wish.face) == wish.other.end() ? wish.wall_mm : wish.other_mm;

    double wall_beside(const TopoDS_Face& other) const {
        return among(wish.other, other) ? wish.other_mm : wish.wall_mm;
    }
    bool among(const std::vector<size_t>& faces, const TopoDS_Face& other) const {
        return std::any_of(faces.begin(), faces.end(), [&](size_t f) { return neighbours.face(f).IsSame(other); });
    }
    bool is_open(const TopoDS_Face& other) const { return among(wish.open, other); }
    TagSet wall_of(const TopoDS_Face& other) const {
        TagSet tags;
        if (const TagSet* own = body.exact()->tags.Seek(other))
            for (Tag tag : *own) add_tags(tags, {derive_tag(tag, wish.step, 0)});
        return tags;
    }

    /// Straight in from the outline of a flat face. Its sides take the names of the walls they lie along.
    Expected<Body> prism() const {
        const Vec3 normal = body.tessellation().faces[wish.face].direction;
        auto shape = std::make_shared<ExactShape>();
        gp_Trsf lift;
        lift.SetTranslation(to_gp(normal) * wish.above_mm);
        TopoDS_Shape base = face.Moved(TopLoc_Location(lift));
        BRepPrimAPI_MakePrism make(base, to_gp(normal) * -(depth_mm + wish.above_mm));
        shape->shape = make.Shape();
        for (const Side& side : neighbours.sides(face))
            for (const TopoDS_Shape& made : make.Generated(side.edge.Moved(TopLoc_Location(lift))))
                if (TagSet tags = wall_of(side.other); !tags.empty()) shape->tags.Bind(made, tags);
        return body_of(shape);
    }

    /// A round face thickened inward. It does not stand out: there is nothing of its kind beyond its border.
    Expected<Body> skin(const Task& task) const {
        KernelCall call;
        call.what = "thicken";
        call.shapes = {body.exact()->shape};
        call.picks = {int32_t(wish.face)};
        call.numbers = {-depth_mm};
        auto answer = run_guarded(call, task);
        if (!answer) return pass_on(answer);
        auto shape = std::make_shared<ExactShape>();
        shape->shape = answer->shape;
        return body_of(shape);
    }

    static Expected<Body> body_of(const std::shared_ptr<ExactShape>& shape) {
        auto made = Body::from_exact(shape);
        if (!made || made->mass().volume_mm3 > 0) return made;
        auto turned = std::make_shared<ExactShape>(*shape);
        turned->shape.Reverse();
        return Body::from_exact(turned);
    }

    bool has_no_inside(const TopoDS_Face& other) const { return lp::has_no_inside(neighbours, other, wish.wall_mm); }

    /// A round that has no inside, and the face beyond it: the edge it was made from, as a side of the open face.
    struct Beyond {
        TopoDS_Face other;
        double back_mm = 0; ///< from the edge there is to the edge there was, in the open face's plane
        Vec3 normal;        ///< of the other face there
    };
    std::optional<Beyond> beyond(const Side& side) const {
        if (!has_no_inside(side.other)) return std::nullopt;
        const double radius = outer_round(side.other);
        // The smooth edge of the round that lies farthest from this one.
        std::optional<Beyond> best;
        double farthest = 0;
        for (const Side& far : neighbours.sides(side.other)) {
            if (!far.smooth || far.other.IsSame(face) || outer_round(far.other) == radius) continue;
            // The round's axis is square to both normals where the two faces would have met.
            double turn = std::acos(std::clamp(far.other_normal.dot(side.normal), -1.0, 1.0));
            if (turn < radians(smooth_deg)) continue;
            double away = (far.at - side.at).norm();
            if (away <= farthest) continue;
            farthest = away;
            best = Beyond{far.other, radius * std::tan(turn / 2), far.other_normal};
        }
        return best;
    }

    /// An edge of the open face beside which a wall is left.
    struct Walled {
        Side side;
        TopoDS_Face other;  ///< the face whose wall it is
        double back_mm = 0; ///< from the edge to where that face would be met
    };
    std::vector<Walled> walled() const {
        std::vector<Walled> all;
        for (const Side& side : neighbours.sides(face)) {
            if (is_open(side.other) || (!side.smooth && has_no_inside(side.other))) continue;
            std::optional<Beyond> past;
            if (side.smooth) past = beyond(side);
            if (side.smooth ? !past : !side.stands_out) continue;
            all.push_back({side, past ? past->other : side.other, past ? past->back_mm : 0});
        }
        return all;
    }

    /// Where the wall beside an edge begins, and which way it runs there.
    struct BandFrame {
        Vec3 at, along, normal, n; ///< a place, the edge's direction, normals of the open face and of the other
        double wall_mm = 0;
    };
    std::optional<BandFrame> frame_of(const Walled& w) const {
        BRepAdaptor_Curve curve(w.side.edge);
        gp_Pnt p;
        gp_Vec d;
        curve.D1(curve.FirstParameter(), p, d);
        d.Normalize();
        const double way = w.side.edge.Orientation() == TopAbs_REVERSED ? -1 : 1;
        Vec3 along = Vec3(d.X(), d.Y(), d.Z());
        auto normal = Neighbours::normal(w.side.edge, face, 0);
        if (!normal) return std::nullopt;
        Vec3 outward = (along * way).cross(*normal).normalized(); // in the open face, away from it
        Vec3 at = to_vec(p) + w.back_mm * outward;
        auto n = normal_of(BRepAdaptor_Surface(w.other, false), w.other, at);
        if (!n) return std::nullopt;
        return BandFrame{at, along, *normal, *n, wall_beside(w.other)};
    }

    /// A section led along an edge: straight on and a little past its ends, or round.
    TopoDS_Shape led_along(const Walled& w, const BandFrame& f,
                           const std::function<TopoDS_Shape(const Vec3&)>& section) const {
        BRepAdaptor_Curve curve(w.side.edge);
        double a = curve.FirstParameter(), b = curve.LastParameter();
        if (curve.GetType() == GeomAbs_Line) {
            double before = past_corner(w.side, f.along, f.n, false, w.back_mm, f.wall_mm),
                   after = past_corner(w.side, f.along, f.n, true, w.back_mm, f.wall_mm);
            double length = (to_vec(curve.Value(b)) - to_vec(curve.Value(a))).norm();
            return BRepPrimAPI_MakePrism(section(f.at - f.along * before), to_gp(f.along) * (length + before + after));
        }
        if (curve.GetType() != GeomAbs_Circle) return {};
        gp_Ax1 axis = curve.Circle().Axis();
        return b - a > 2 * std::numbers::pi - 1e-6 ? BRepPrimAPI_MakeRevol(section(f.at), axis).Shape()
                                                   : BRepPrimAPI_MakeRevol(section(f.at), axis, b - a).Shape();
    }

    /// Where every wall beside a flat open face stands square to it, the way in is a prism of what the walls leave of
    /// the face: found in the plane, which takes the kernel a tenth of cutting solids. Nothing where one leans.
    std::optional<Body> straight_in(const std::vector<Walled>& edges) const {
        const Vec3 normal = body.tessellation().faces[wish.face].direction;
        TopTools_ListOfShape faces, strips;
        std::vector<std::pair<TopoDS_Shape, TagSet>> named; // edges, with the walls along them
        for (const Side& side : neighbours.sides(face)) named.emplace_back(side.edge, wall_of(side.other));
        for (const Walled& w : edges) {
            auto f = frame_of(w);
            if (!f || std::fabs(f->n.dot(normal)) > 1e-9) return std::nullopt;
            TopoDS_Shape strip = led_along(w, *f, [&](const Vec3& place) {
                return BRepBuilderAPI_MakeEdge(to_pnt(place), to_pnt(place - f->n * f->wall_mm)).Edge();
            });
            if (strip.IsNull()) return std::nullopt;
            strips.Append(strip);
            for (TopExp_Explorer it(strip, TopAbs_EDGE); it.More(); it.Next())
                named.emplace_back(it.Current(), wall_of(w.other));
        }
        BRepAlgoAPI_Cut cut;
        faces.Append(face);
        cut.SetArguments(faces);
        cut.SetTools(strips);
        cut.SetFuzzyValue(tolerance::boolean_fuzzy_mm);
        cut.Build();
        if (!cut.IsDone() || cut.HasErrors()) return std::nullopt;
        if (!TopExp_Explorer(cut.Shape(), TopAbs_FACE).More()) return std::nullopt;
        gp_Trsf lift;
        lift.SetTranslation(to_gp(normal) * wish.above_mm);
        const TopLoc_Location lifted(lift);
        // Edges the strips' overlaps left in a straight line are one wall.
        ShapeUpgrade_UnifySameDomain unify(cut.Shape(), true, false, false);
        unify.Build();
        BRepPrimAPI_MakePrism make(unify.Shape().Moved(lifted), to_gp(normal) * -(depth_mm + wish.above_mm));
        auto shape = std::make_shared<ExactShape>();
        shape->shape = make.Shape();
        for (const auto& [edge, tags] : named) {
            if (tags.empty()) continue;
            TopTools_ListOfShape now = cut.Modified(edge);
            if (now.IsEmpty()) now.Append(edge);
            for (const TopoDS_Shape& piece : now) {
                TopTools_ListOfShape whole = unify.History()->Modified(piece);
                if (whole.IsEmpty()) whole.Append(piece);
                for (const TopoDS_Shape& kept : whole)
                    for (const TopoDS_Shape& side : make.Generated(kept.Moved(lifted))) shape->tags.Bind(side, tags);
            }
        }
        auto made = body_of(shape);
        return made ? std::optional(*made) : std::nullopt;
    }

    /// The wall left beside an edge: a strip under the other face, as thick as its wall.
    Expected<Body> band(const Walled& w) const {
        const TopoDS_Face& other = w.other;
        auto f = frame_of(w);
        if (!f) return refused(other);
        const double wall = f->wall_mm;
        Vec3 down = f->n.cross(f->along).normalized(); // in the other face, into the depth
        if (down.dot(f->normal) > 0) down = -down;
        double sine = -down.dot(f->normal), lean = wall * std::fabs(f->n.dot(f->normal));
        if (sine < 0.05) return refused(other);
        Vec3 up = -down * ((wish.above_mm + beyond_mm + lean) / sine),
             low = down * ((depth_mm + beyond_mm + lean) / sine);
        auto shape = std::make_shared<ExactShape>();
        shape->shape = led_along(w, *f, [&](const Vec3& place) {
            BRepBuilderAPI_MakePolygon outline;
            for (const Vec3& corner : {Vec3(up), Vec3(low), Vec3(low - f->n * wall), Vec3(up - f->n * wall)})
                outline.Add(to_pnt(place + corner));
            outline.Close();
            return BRepBuilderAPI_MakeFace(outline.Wire()).Face();
        });
        if (shape->shape.IsNull()) return refused(other);
        if (TagSet tags = wall_of(other); !tags.empty())
            for (TopExp_Explorer it(shape->shape, TopAbs_FACE); it.More(); it.Next())
                shape->tags.Bind(it.Current(), tags);
        return body_of(shape);
    }

    /// Normal of a flat, round or conical face at a place that may lie beside its borders.
    static std::optional<Vec3> normal_of(const BRepAdaptor_Surface& surface, const TopoDS_Face& other, const Vec3& at) {
        double u = 0, v = 0;
        gp_Pnt p = to_pnt(at);
        switch (surface.GetType()) {
        case GeomAbs_Plane: {
            Vec3 n = to_direction(surface.Plane().Axis().Direction());
            if (!surface.Plane().Direct()) n = -n;
            return other.Orientation() == TopAbs_REVERSED ? -n : n;
        }
        case GeomAbs_Cylinder:
            ElSLib::Parameters(surface.Cylinder(), p, u, v);
            break;
        case GeomAbs_Cone:
            ElSLib::Parameters(surface.Cone(), p, u, v);
            break;
        default:
            return std::nullopt;
        }
        gp_Vec n;
        BRepGProp_Face(other).Normal(u, v, p, n);
        if (n.Magnitude() < 1e-12) return std::nullopt;
        n.Normalize();
        return Vec3(n.X(), n.Y(), n.Z());
    }

    /// How far a band runs on past the end of its edge.
    double past_corner(const Side& side, const Vec3& along, const Vec3& n, bool at_end, double back_mm,
                       double wall) const {
        TopoDS_Vertex corner = at_end ? TopExp::LastVertex(side.edge) : TopExp::FirstVertex(side.edge);
        gp_Pnt here = BRep_Tool::Pnt(corner);
        for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge& next = TopoDS::Edge(it.Current());
            if (next.IsSame(side.edge) || BRep_Tool::Degenerated(next)) continue;
            bool meets = false;
            for (TopExp_Explorer v(next, TopAbs_VERTEX); v.More(); v.Next()) meets |= v.Current().IsSame(corner);
            if (!meets) continue;
            BRepAdaptor_Curve curve(next);
            double a = curve.FirstParameter(), b = curve.LastParameter();
            bool first = curve.Value(a).Distance(here) < curve.Value(b).Distance(here);
            gp_Pnt q;
            gp_Vec g;
            curve.D1(first ? a : b, q, g);
            if (!first) g.Reverse();
            Vec3 away = Vec3(g.X(), g.Y(), g.Z()).normalized(), out = at_end ? along : Vec3(-along);
            double turn = std::acos(std::clamp(out.dot(away), -1.0, 1.0));
            if (away.dot(n) > 1e-6) return (wall - back_mm) * std::tan(std::min(turn, 2.6) / 2);
            // At a corner that stands out the band runs to where it was before what has no inside rounded it, and at a
            // wide one on until it is as thick as the wall at the next edge too: there may be no band beside that.
            const bool rounded = curve.GetType() == GeomAbs_Circle && back_mm == 0 && rounded_corner(next);
            const double corner_turn = rounded ? b - a : turn, radius = rounded ? curve.Circle().Radius() : back_mm;
            double length = radius * std::tan(std::min(corner_turn, 2.6) / 2);
            if (corner_turn > radians(smooth_deg) && corner_turn < std::numbers::pi / 2)
                length += std::min(wall / std::tan(corner_turn), 4 * wall);
            return length;
        }
        return 0;
    }

    bool rounded_corner(const TopoDS_Edge& edge) const {
        for (const Side& side : neighbours.sides(face))
            if (side.edge.IsSame(edge)) return has_no_inside(side.other);
        return false;
    }

    tl::unexpected<Problem> refused(const TopoDS_Face& other) const {
        const TagSet* own = body.exact()->tags.Seek(other);
        std::string name = own && !own->empty() ? tag_words(own->front()) : std::string("a face");
        return problem(ProblemCode::Geometry,
                       "The wall beside the open face cannot be made along " + name + ": it is neither flat nor round.",
                       "Open another face, or shell before the step that made it.");
    }
};

} // namespace

bool runs_on_smoothly(const Body& body, size_t face) {
    Neighbours neighbours(body.exact()->shape);
    auto sides = neighbours.sides(neighbours.face(face));
    return std::any_of(sides.begin(), sides.end(), [](const Side& side) { return side.smooth; });
}

std::vector<size_t> rounds_without_inside(const Body& body, double wall) {
    std::vector<size_t> rounds;
    Neighbours neighbours(body.exact()->shape);
    for (int i = 0; i < neighbours.count(); ++i)
        if (has_no_inside(neighbours, neighbours.face(size_t(i)), wall)) rounds.push_back(size_t(i));
    return rounds;
}

Expected<Body> opening_tool(const Body& body, const Opening& opening, const Task& task) {
    Neighbours neighbours(body.exact()->shape);
    OpeningMaker maker{neighbours, body, opening};
    const GeomAbs_SurfaceType kind = BRepAdaptor_Surface(maker.face, false).GetType();
    if (kind != GeomAbs_Plane && kind != GeomAbs_Cylinder && kind != GeomAbs_Cone)
        return problem(ProblemCode::Geometry, "An open face that rounds run into is neither flat nor round.",
                       "Open another face, or shell before the fillets.");
    auto tool = kind == GeomAbs_Plane ? maker.prism() : maker.skin(task);
    if (!tool) return tool;
    const auto edges = maker.walled();
    if (edges.empty()) return tool;
    if (kind == GeomAbs_Plane)
        if (auto straight = maker.straight_in(edges)) return *straight;
    std::vector<Body> bands;
    for (const auto& edge : edges) {
        auto band = maker.band(edge);
        if (!band) return band;
        bands.push_back(std::move(*band));
    }
    return combine_exact(Operation::Cut, *tool, bands, task);
}

Expected<Body> swept_face(const Body& body, size_t face, double by) {
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(body.exact()->shape, TopAbs_FACE, faces);
    auto shape = std::make_shared<ExactShape>();
    shape->shape = BRepPrimAPI_MakePrism(faces(int(face) + 1), to_gp(body.tessellation().faces[face].direction) * by);
    return OpeningMaker::body_of(shape);
}

} // namespace lp
