#include "steps/solids/profile_shape.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/occt_convert.h"
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepLib.hxx>
#include <BRepOffsetAPI_DraftAngle.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Ellipse.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <gp_Ax1.hxx>
#include <gp_Circ.hxx>
#include <gp_Elips.hxx>
#include <gp_Pln.hxx>

namespace lp {
namespace {

gp_Pnt flat(const Vec2& p) {
    return {p.x(), p.y(), 0};
}

/// A conic runs counter-clockwise about its axis: for the other way the axis points down.
gp_Ax2 frame_of(const Curve& c, const Vec2& x) {
    return {flat(c.centre), gp_Dir(0, 0, c.sweep > 0 ? 1 : -1), gp_Dir(x.x(), x.y(), 0)};
}

Handle(Geom_Curve) cubics_of(const Curve& c) {
    int n = int(c.points.size() / 3);
    TColgp_Array1OfPnt poles(1, int(c.points.size()));
    for (size_t i = 0; i < c.points.size(); ++i) poles.SetValue(int(i) + 1, flat(c.points[i]));
    TColStd_Array1OfReal knots(1, n + 1);
    TColStd_Array1OfInteger many(1, n + 1);
    for (int i = 0; i <= n; ++i) {
        knots.SetValue(i + 1, i);
        many.SetValue(i + 1, i == 0 || i == n ? 4 : 3);
    }
    Handle(Geom_BSplineCurve) curve = new Geom_BSplineCurve(poles, knots, many, 3);
    // Smooth joints lose their knots' multiplicity: the kernel splits faces at kinks it believes in.
    for (int i = curve->NbKnots() - 1; i >= 2; --i)
        for (int m = 2; m >= 1; --m)
            if (!curve->RemoveKnot(i, m, 1e-7)) break;
    return curve;
}

TopoDS_Edge make_edge(const Curve& c, const TopoDS_Vertex& a, const TopoDS_Vertex& b) {
    switch (c.kind) {
    case Curve::Kind::Line:
        return BRepBuilderAPI_MakeEdge(a, b);
    case Curve::Kind::Arc: {
        Handle(Geom_Circle) circle = new Geom_Circle(frame_of(c, Vec2(std::cos(c.start), std::sin(c.start))), c.radius);
        return BRepBuilderAPI_MakeEdge(circle, a, b, 0, std::fabs(c.sweep));
    }
    case Curve::Kind::Ellipse: {
        Vec2 side = Vec2(-c.major.y(), c.major.x()).normalized() * c.minor;
        bool swap = c.minor > c.major.norm();
        double from = c.start - (swap ? std::numbers::pi / 2 : 0);
        Vec2 x = swap ? side : c.major;
        Handle(Geom_Ellipse) ellipse = new Geom_Ellipse(frame_of(c, x.normalized()), std::max(c.major.norm(), c.minor),
                                                        std::min(c.major.norm(), c.minor));
        if (c.sweep < 0) from = -from;
        return BRepBuilderAPI_MakeEdge(ellipse, a, b, from, from + std::fabs(c.sweep));
    }
    case Curve::Kind::Cubics: {
        Handle(Geom_Curve) curve = cubics_of(c);
        return BRepBuilderAPI_MakeEdge(curve, a, b, curve->FirstParameter(), curve->LastParameter());
    }
    }
    return {};
}

void tag_face(ExactShape& shape, const TopoDS_Shape& face, TagSource source, FaceRole role, SourceKey key) {
    if (!face.IsNull()) shape.tags.Bind(face, {intern_tag({source.step, role, key, source.copy, 0})});
}

void birth(ExactShape& shape, TagSource source, FaceRole role, SourceKey key, const Vec3& origin, const Vec3& x,
           const Vec3& normal, const Vec3& size) {
    BirthFrame b;
    b.frame.linear() << x, normal.cross(x), normal;
    b.frame.translation() = origin;
    b.size = size;
    shape.births.emplace(intern_tag({source.step, role, key, source.copy, 0}), b);
}

/// Faces nobody named: by their number, so that nothing is without a name.
void tag_rest(ExactShape& shape, TagSource source) {
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(shape.shape, TopAbs_FACE, faces);
    for (int i = 1; i <= faces.Extent(); ++i)
        if (!shape.tags.IsBound(faces(i))) tag_face(shape, faces(i), source, FaceRole::Orphan, uint64_t(i));
}

} // namespace

ProfileLoop profile_loop(const BoundaryLoop& loop, bool closed) {
    ProfileLoop result;
    BRep_Builder builder;
    builder.MakeWire(result.wire);
    std::vector<TopoDS_Vertex> vertices;
    size_t n = loop.size();
    for (size_t i = 0; i < n + (closed ? 0 : 1); ++i) {
        TopoDS_Vertex v;
        builder.MakeVertex(v, flat(i < n ? loop[i].curve.first() : loop.back().curve.last()), 1e-7);
        vertices.push_back(v);
    }
    for (size_t i = 0; i < n; ++i) {
        const TopoDS_Vertex &a = vertices[i], &b = vertices[closed ? (i + 1) % n : i + 1];
        // Ends that rounding put beside the vertex: the vertex grows to hold them.
        Vec2 end = loop[i].curve.last();
        double off = gp_Pnt(end.x(), end.y(), 0).Distance(BRep_Tool::Pnt(b));
        if (off > 1e-7) builder.UpdateVertex(b, off * 1.01);
        TopoDS_Edge edge = make_edge(loop[i].curve, a, b);
        if (edge.IsNull()) throw Standard_Failure("an edge of the outline could not be made");
        builder.Add(result.wire, edge);
        result.edges.push_back({edge, loop[i].key, loop[i].curve});
    }
    result.wire.Closed(closed);
    return result;
}

Expected<std::vector<ProfileFace>> profile_faces(const std::vector<FlatRegion>& regions) {
    std::vector<ProfileFace> faces;
    for (const FlatRegion& region : regions) {
        ProfileFace f;
        f.area_mm2 = region.area_mm2;
        f.outer = profile_loop(region.outer, true);
        for (const BoundaryCurve& c : region.outer) f.box.extend(c.curve.tight_box());
        BRepBuilderAPI_MakeFace make(gp_Pln(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1), gp_Dir(1, 0, 0))), f.outer.wire,
                                     true);
        for (const BoundaryLoop& hole : region.holes) {
            f.holes.push_back(profile_loop(hole, true));
            make.Add(f.holes.back().wire);
        }
        if (!make.IsDone())
            return problem(ProblemCode::Geometry, "A region of the outline could not be made into a face.",
                           "Move a point of it a little.");
        f.face = make.Face();
        faces.push_back(std::move(f));
    }
    return faces;
}

std::shared_ptr<ExactShape> gather(const std::vector<ExactShape>& solids) {
    auto result = std::make_shared<ExactShape>();
    if (solids.size() == 1) {
        *result = solids[0];
        return result;
    }
    TopoDS_Compound compound;
    BRep_Builder builder;
    builder.MakeCompound(compound);
    for (const ExactShape& solid : solids) {
        builder.Add(compound, solid.shape);
        for (FaceTags::Iterator it(solid.tags); it.More(); it.Next()) result->tags.Bind(it.Key(), it.Value());
        result->births.insert(solid.births.begin(), solid.births.end());
    }
    result->shape = compound;
    return result;
}

Expected<Body> finish_profile_body(std::shared_ptr<ExactShape> shape, const Transform& plane,
                                   std::optional<double> volume, double share, const char* what) {
    if (!TopExp_Explorer(shape->shape, TopAbs_SOLID).More() || !BRepCheck_Analyzer(shape->shape).IsValid())
        return problem(ProblemCode::Geometry, std::string("The ") + what + " does not come out sound.",
                       "Change a size of the outline a little.");
    auto body = Body::from_exact(located(*shape, plane));
    if (!body) return body;
    double got = body->mass().volume_mm3;
    if (got < 0) {
        auto turned = std::make_shared<ExactShape>(*shape);
        turned->shape.Reverse();
        body = Body::from_exact(located(*turned, plane));
        if (!body) return body;
        got = body->mass().volume_mm3;
    }
    if (!(got > 1e-9) || (volume && std::fabs(got - *volume) > share * *volume + 1e-6))
        return problem(ProblemCode::Geometry,
                       std::string("The ") + what + " has a volume of " + format_number(got) + " mm³" +
                           (volume ? ", and it should have " + format_number(*volume) + " mm³." : ", which cannot be."),
                       "Change a size of the outline a little.");
    return body;
}

Expected<Body> raised_body(const std::vector<FlatRegion>& regions, double low, double high, double draft,
                           const Transform& plane, TagSource source) {
    if (!(high - low >= tolerance::smallest_mm))
        return problem(ProblemCode::Range, "It is raised by " + format_quantity(high - low, QuantityKind::Length) + ".",
                       "Give it a height above 0.");
    if (high > tolerance::largest_mm || low < -tolerance::largest_mm)
        return problem(ProblemCode::Range, "It is raised beyond 100 m.", "Use a smaller height.");
    return guard_kernel("raising the outline", [&]() -> Expected<Body> {
        auto faces = profile_faces(regions);
        if (!faces) return pass_on(faces);
        std::vector<ExactShape> solids;
        double volume = 0;
        Transform lift = Transform::Identity();
        lift.translate(Vec3(0, 0, low));
        for (ProfileFace& f : *faces) {
            ExactShape solid;
            BRepPrimAPI_MakePrism prism(f.face, gp_Vec(0, 0, high - low));
            solid.shape = prism.Shape();
            Vec2 size = f.box.sizes();
            auto walls = [&](const ProfileLoop& loop) {
                for (const ProfileEdge& e : loop.edges) {
                    for (const TopoDS_Shape& wall : prism.Generated(e.edge))
                        tag_face(solid, wall, source, FaceRole::Side, e.key);
                    if (e.curve.kind != Curve::Kind::Line) continue;
                    Vec2 a = e.curve.points[0], d = (e.curve.points[1] - a).normalized();
                    birth(solid, source, FaceRole::Side, e.key, Vec3(a.x(), a.y(), 0), Vec3(d.x(), d.y(), 0),
                          Vec3(d.y(), -d.x(), 0), {e.curve.length(), high - low, 0});
                }
            };
            walls(f.outer);
            for (const ProfileLoop& hole : f.holes) walls(hole);
            tag_face(solid, prism.FirstShape(), source, FaceRole::Bottom, 0);
            tag_face(solid, prism.LastShape(), source, FaceRole::Top, 0);
            // The outline's own frame, so that what is drawn on the ends keeps its coordinates.
            birth(solid, source, FaceRole::Bottom, 0, {0, 0, 0}, Vec3::UnitX(), -Vec3::UnitZ(),
                  {size.x(), size.y(), 0});
            birth(solid, source, FaceRole::Top, 0, {0, 0, high - low}, Vec3::UnitX(), Vec3::UnitZ(),
                  {size.x(), size.y(), 0});
            volume += f.area_mm2 * (high - low);
            if (std::fabs(draft) > 1e-9) {
                BRepOffsetAPI_DraftAngle lean(solid.shape);
                gp_Pln neutral(gp_Pnt(0, 0, -low), gp_Dir(0, 0, 1));
                for (FaceTags::Iterator it(solid.tags); it.More(); it.Next()) {
                    if (it.Key().IsSame(prism.FirstShape()) || it.Key().IsSame(prism.LastShape())) continue;
                    lean.Add(TopoDS::Face(it.Key()), gp_Dir(0, 0, 1), radians(draft), neutral);
                    if (!lean.AddDone()) break;
                }
                if (lean.AddDone()) lean.Build();
                if (!lean.AddDone() || !lean.IsDone())
                    return problem(ProblemCode::Geometry,
                                   "The walls cannot lean by " + format_quantity(draft, QuantityKind::Angle) + ".",
                                   "Use a smaller angle or height, or curves without splines.");
                ExactShape leaning;
                leaning.shape = lean.Shape();
                for (FaceTags::Iterator it(solid.tags); it.More(); it.Next())
                    leaning.tags.Bind(lean.ModifiedShape(it.Key()), it.Value());
                for (const auto& [tag, frame] : solid.births)
                    if (auto meaning = tag_meaning(tag); meaning && meaning->role != FaceRole::Side)
                        leaning.births.emplace(tag, frame);
                solid = std::move(leaning);
            }
            tag_rest(solid, source);
            solids.push_back(std::move(solid));
        }
        std::optional<double> wanted = volume;
        if (std::fabs(draft) > 1e-9) wanted.reset();
        auto body = finish_profile_body(gather(solids), plane * lift, wanted, 1e-5, "raised outline");
        if (body && !wanted && ((draft > 0) != (body->mass().volume_mm3 < volume)) && low >= 0)
            return problem(ProblemCode::Geometry, "The leaning walls meet before the top.",
                           "Use a smaller angle or height.");
        return body;
    });
}

Expected<std::vector<FlatRegion>> regions_beside_axis(const std::vector<FlatRegion>& regions, const Vec2& origin,
                                                      const Vec2& direction) {
    std::vector<SourcedCurve> curves;
    double reach = 1;
    for (const FlatRegion& r : regions) {
        auto add = [&](const BoundaryLoop& loop) {
            for (const BoundaryCurve& c : loop) {
                SourcedCurve s;
                s.curve = c.curve;
                s.key = c.key;
                curves.push_back(s);
                for (const Vec2& corner : {c.curve.box().min(), c.curve.box().max()})
                    reach = std::max(reach, (corner - origin).norm());
            }
        };
        add(r.outer);
        for (const BoundaryLoop& hole : r.holes) add(hole);
    }
    SourcedCurve axis;
    axis.curve = Curve::line(origin - direction * (reach + 1), origin + direction * (reach + 1));
    curves.push_back(axis);
    auto arrangement = arrange(curves, 1e-6);
    if (!arrangement) return pass_on(arrangement);
    std::vector<FlatRegion> kept;
    for (FlatRegion& r : arrangement->regions) {
        if (cross2(direction, r.inside - origin) < 0) continue;
        bool meant = std::any_of(regions.begin(), regions.end(), [&](const FlatRegion& old) {
            return inside_loop(curves_of(old.outer), r.inside) &&
                   std::none_of(old.holes.begin(), old.holes.end(),
                                [&](const BoundaryLoop& h) { return inside_loop(curves_of(h), r.inside); });
        });
        if (meant) kept.push_back(std::move(r));
    }
    return kept;
}

Expected<Body> revolved_body(const std::vector<FlatRegion>& regions, const Vec2& origin, const Vec2& direction,
                             double from, double angle, const Transform& plane, TagSource source) {
    if (!(std::fabs(angle) >= 0.01 && std::fabs(angle) <= 360 + 1e-9))
        return problem(ProblemCode::Range, "It is turned by " + format_quantity(angle, QuantityKind::Angle) + ".",
                       "Use an angle up to 360°.");
    // All on one side of the axis; say where not.
    double left = 0, right = 0;
    Vec2 worst_left = origin, worst_right = origin;
    for (const FlatRegion& r : regions) {
        for (const Vec2& p : flatten(curves_of(r.outer), 1e-3)) {
            double side = cross2(direction, p - origin);
            if (side > left) left = side, worst_left = p;
            if (side < right) right = side, worst_right = p;
        }
    }
    if (left > 1e-5 && right < -1e-5) {
        Vec2 p = left < -right ? worst_left : worst_right;
        Problem crosses{ProblemCode::Geometry,
                        "The outline crosses the axis it is turned about: it reaches " +
                            format_quantity(std::min(left, -right), QuantityKind::Length) + " beyond it at " +
                            format_number(p.x(), 2) + ", " + format_number(p.y(), 2) + " mm.",
                        "Keep it on one side, or choose another axis.",
                        plane * Vec3(p.x(), p.y(), 0),
                        {}};
        return pass_on(crosses);
    }
    return guard_kernel("turning the outline", [&]() -> Expected<Body> {
        auto faces = profile_faces(regions);
        if (!faces) return pass_on(faces);
        gp_Ax1 axis(flat(origin), gp_Dir(direction.x(), direction.y(), 0));
        bool whole = std::fabs(angle) > 360 - 1e-9;
        std::vector<ExactShape> solids;
        for (ProfileFace& f : *faces) {
            ExactShape solid;
            BRepPrimAPI_MakeRevol revolve(f.face, axis, radians(whole ? 360 : angle));
            solid.shape = revolve.Shape();
            auto walls = [&](const ProfileLoop& loop) {
                for (const ProfileEdge& e : loop.edges) {
                    // Generated() is empty for flat discs of a whole turn (architecture.md): ask the sweep itself.
                    TopoDS_Shape wall;
                    for (const TopoDS_Shape& g : revolve.Generated(e.edge)) wall = g;
                    if (wall.IsNull() || wall.ShapeType() != TopAbs_FACE) {
                        wall = const_cast<BRepSweep_Revol&>(revolve.Revol()).Shape(e.edge);
                        if (wall.IsNull() || wall.ShapeType() != TopAbs_FACE) continue;
                    }
                    tag_face(solid, wall, source, FaceRole::Side, e.key);
                    if (e.curve.kind != Curve::Kind::Line) continue;
                    Vec2 d = (e.curve.points[1] - e.curve.points[0]).normalized();
                    if (std::fabs(d.dot(direction)) > 1e-9) continue; // only square to the axis are they flat
                    Vec2 foot = origin + direction * (e.curve.points[0] - origin).dot(direction);
                    double radius = std::max((e.curve.points[0] - foot).norm(), (e.curve.points[1] - foot).norm());
                    Vec2 out(direction.y(), -direction.x());
                    birth(solid, source, FaceRole::Side, e.key, Vec3(foot.x(), foot.y(), 0), Vec3(out.x(), out.y(), 0),
                          Vec3(direction.x(), direction.y(), 0), {2 * radius, 2 * radius, 0});
                }
            };
            walls(f.outer);
            for (const ProfileLoop& hole : f.holes) walls(hole);
            if (!whole) {
                tag_face(solid, revolve.FirstShape(), source, FaceRole::Bottom, 0);
                tag_face(solid, revolve.LastShape(), source, FaceRole::Top, 0);
                Vec2 size = f.box.sizes();
                birth(solid, source, FaceRole::Bottom, 0, Vec3::Zero(), Vec3::UnitX(), Vec3::UnitZ(),
                      {size.x(), size.y(), 0});
            }
            tag_rest(solid, source);
            if (std::fabs(from) > 1e-9 && !whole) {
                Transform turn = Transform::Identity();
                turn.translate(Vec3(origin.x(), origin.y(), 0));
                turn.rotate(Eigen::AngleAxisd(radians(from), Vec3(direction.x(), direction.y(), 0)));
                turn.translate(-Vec3(origin.x(), origin.y(), 0));
                solid = *located(solid, turn);
            }
            solids.push_back(std::move(solid));
        }
        return finish_profile_body(gather(solids), plane, std::nullopt, 0, "turned outline");
    });
}

Expected<std::vector<FlatRegion>> region_of(const std::vector<Curve>& curves) {
    std::vector<SourcedCurve> sourced;
    for (size_t i = 0; i < curves.size(); ++i) {
        SourcedCurve s;
        s.curve = curves[i];
        s.key = i + 1;
        sourced.push_back(s);
    }
    auto arrangement = arrange(sourced);
    if (!arrangement) return pass_on(arrangement);
    if (arrangement->regions.size() != 1)
        return problem(ProblemCode::Geometry, "With these sizes nothing is enclosed.", "Change one of them.");
    return std::move(arrangement->regions);
}

Expected<Body> turned_profile(const std::vector<Curve>& profile, double growth_mm, const Transform& at,
                              TagSource tags) {
    auto regions = region_of(profile);
    if (regions && growth_mm != 0) regions = grown_regions(*regions, growth_mm);
    if (regions && growth_mm != 0) regions = regions_beside_axis(*regions, {0, 0}, -Vec2::UnitY());
    if (!regions) return pass_on(regions);
    Transform upright = at;
    upright.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX())); // drawn y to the local z
    return revolved_body(*regions, {0, 0}, Vec2::UnitY(), 0, 360, upright, tags);
}

} // namespace lp
