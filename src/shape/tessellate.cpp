// Exact faces to triangles, with one vertex for every place where faces meet.
#include "base/tolerance.h"
#include "base/union_find.h"
#include "shape/body.h"
#include "shape/carry_triangles.h"
#include "shape/occt_convert.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <IMeshTools_Parameters.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <numeric>

namespace lp {
namespace {

void describe_surface(const TopoDS_Face& face, FaceInfo& info) {
    BRepAdaptor_Surface surface(face, false);
    switch (surface.GetType()) {
    case GeomAbs_Plane:
        info.kind = SurfaceKind::Plane;
        break;
    case GeomAbs_Cylinder:
        info.kind = SurfaceKind::Cylinder;
        info.radius_mm = surface.Cylinder().Radius();
        info.direction = to_direction(surface.Cylinder().Axis().Direction());
        info.axis_point = to_vec(surface.Cylinder().Location());
        break;
    case GeomAbs_Cone:
        info.kind = SurfaceKind::Cone;
        info.direction = to_direction(surface.Cone().Axis().Direction());
        info.axis_point = to_vec(surface.Cone().Location());
        break;
    case GeomAbs_Sphere:
        info.kind = SurfaceKind::Sphere;
        info.radius_mm = surface.Sphere().Radius();
        info.axis_point = to_vec(surface.Sphere().Location());
        break;
    default:
        info.kind = SurfaceKind::Other;
    }
}

class Mesher {
  public:
    Mesher(const ExactShape& shape, double deflection, bool surely) {
        // Never mesh a shared shape: other threads read it. Triangles that faces brought along stay, but only those
        // made for this deflection, which all that are kept are.
        bool keep = !surely && deflection == tolerance::export_deflection_mm;
        BRepBuilderAPI_Copy copy(shape.shape, false, false);
        shape_ = copy.Shape();
        for (FaceTags::Iterator it(shape.tags); it.More(); it.Next())
            tags_.Bind(copy.ModifiedShape(it.Key()), it.Value());
        TopExp::MapShapes(shape_, TopAbs_FACE, faces_);
        if (keep) {
            std::vector<int32_t> all(size_t(faces_.Extent()));
            std::iota(all.begin(), all.end(), 0);
            carry_triangles(shape.shape, shape_, all);
            // Fillets ask again and again which edges are smooth: told once here, where the shape is still ours alone.
            BRepLib::EncodeRegularity(shape_, 1e-6);
        }
        classify();
        IMeshTools_Parameters parameters;
        parameters.Angle = tolerance::display_angle_rad;
        parameters.InParallel = faces_.Extent() > 24; // fewer are not worth the threads
        parameters.MeshAlgo = surely ? IMeshTools_MeshAlgoType_Watson : IMeshTools_MeshAlgoType_Delabella;
        if (free_ == 0 || (!surely && mesh_free_faces(parameters, deflection))) {
            parameters.Deflection = flat_ ? deflection : deflection * 0.5;
            parameters.ControlSurfaceDeflection = false;
            mesh_tame_faces(parameters);
        } else {
            parameters.Deflection = deflection;
            parameters.ControlSurfaceDeflection = true;
            BRepMesh_IncrementalMesh(shape_, parameters);
        }
    }

    const TopoDS_Shape& shape() const { return shape_; }
    Expected<Tessellation> run() {
        for (int i = 1; i <= faces_.Extent(); ++i)
            if (auto failed = add_face(TopoDS::Face(faces_(i)), uint32_t(i - 1))) return pass_on(*failed);
        UnionFind same(points_.size());
        TopTools_IndexedDataMapOfShapeListOfShape edges;
        TopExp::MapShapesAndAncestors(shape_, TopAbs_EDGE, TopAbs_FACE, edges);
        TopExp::MapShapes(shape_, TopAbs_EDGE, edge_numbers_);
        for (int i = 1; i <= edges.Extent(); ++i) add_edge(TopoDS::Edge(edges.FindKey(i)), edges(i), same);
        join_vertices(same);
        return std::move(result_);
    }

  private:
    /// On balls and cones the kernel overshoots the deflection up to 2.7 times (tests/core/shape_test.cpp): half is
    /// asked for, without its refining after the first grid, which costs ten times the grid and adds nothing there.
    /// On free surfaces that refining adds place after place (20 s for a long twisted sweep, trials): they are done
    /// first, by grids made finer until every facet lies on its surface.
    void classify() {
        for (int i = 1; i <= faces_.Extent(); ++i) {
            BRepAdaptor_Surface surface(TopoDS::Face(faces_(i)), false);
            GeomAbs_SurfaceType type = surface.GetType();
            // A shell leaves round faces that are told as offsets of others.
            if (type == GeomAbs_OffsetSurface) type = surface.BasisSurface()->GetType();
            bool straight = type == GeomAbs_Plane || type == GeomAbs_Cylinder ||
                            type == GeomAbs_SurfaceOfExtrusion; // their edges say it all
            bool tame = type <= GeomAbs_Torus || straight;
            tame_.push_back(tame);
            flat_ = flat_ && (straight || !tame);
            free_ += !tame;
        }
    }

    /// Faces without triangles that are fine enough, and those beside them, whose common edges show where to join on.
    std::vector<bool> unmeshed(double deflection) const {
        std::vector<bool> fresh, wanted;
        for (int i = 1; i <= faces_.Extent(); ++i) {
            TopLoc_Location at;
            auto triangles = BRep_Tool::Triangulation(TopoDS::Face(faces_(i)), at);
            fresh.push_back(triangles.IsNull() || triangles->Deflection() > 1.05 * deflection);
        }
        wanted = fresh;
        TopTools_IndexedDataMapOfShapeListOfShape faces_at;
        TopExp::MapShapesAndAncestors(shape_, TopAbs_EDGE, TopAbs_FACE, faces_at);
        for (int e = 1; e <= faces_at.Extent(); ++e) {
            bool touched = false;
            for (const TopoDS_Shape& face : faces_at(e)) touched = touched || fresh[size_t(faces_.FindIndex(face) - 1)];
            if (!touched) continue;
            for (const TopoDS_Shape& face : faces_at(e)) wanted[size_t(faces_.FindIndex(face) - 1)] = true;
        }
        return wanted;
    }

    /// Faces on free surfaces, each by a grid of its own. False when one cannot be told from its grid: the kernel's
    /// refining is then asked for.
    bool mesh_free_faces(IMeshTools_Parameters parameters, double deflection) {
        parameters.ControlSurfaceDeflection = false;
        std::vector<bool> wanted = unmeshed(deflection), fresh(wanted.size());
        for (size_t i = 0; i < wanted.size(); ++i) fresh[i] = !tame_[i] && !is_meshed(i, deflection);
        double before = 1e300;
        for (double share : {0.5, 0.25, 0.125, 0.06}) {
            TopoDS_Compound compound;
            BRep_Builder builder;
            builder.MakeCompound(compound);
            bool any = false;
            for (size_t i = 0; i < fresh.size(); ++i) {
                if (tame_[i] || !wanted[i]) continue;
                builder.Add(compound, faces_(int(i) + 1));
                any = any || fresh[i];
            }
            if (!any) return true;
            parameters.Deflection = share * deflection;
            BRepMesh_IncrementalMesh(compound, parameters);
            double off = 0;
            for (size_t i = 0; i < fresh.size(); ++i) {
                if (!fresh[i]) continue;
                const TopoDS_Face face = TopoDS::Face(faces_(int(i) + 1));
                off = std::max(off, off_surface(face));
                TopLoc_Location at;
                if (auto triangles = BRep_Tool::Triangulation(face, at); !triangles.IsNull())
                    triangles->Deflection(0.5 * deflection);
            }
            if (off <= deflection) return true;
            for (size_t i = 0; i < fresh.size(); ++i) // all of them: they share edges
                if (fresh[i]) BRepTools::Clean(faces_(int(i) + 1));
            if (off > 8 * deflection || off > 0.7 * before) return false; // no grid will do
            before = off;
        }
        return false;
    }

    bool is_meshed(size_t face, double deflection) const {
        TopLoc_Location at;
        auto triangles = BRep_Tool::Triangulation(TopoDS::Face(faces_(int(face) + 1)), at);
        return !triangles.IsNull() && triangles->Deflection() <= 1.05 * deflection;
    }

    /// How far the surface is from the middle of a facet and of its edges, at most.
    static double off_surface(const TopoDS_Face& face) {
        TopLoc_Location location;
        auto triangles = BRep_Tool::Triangulation(face, location);
        if (triangles.IsNull() || !triangles->HasUVNodes()) return 1e300;
        BRepAdaptor_Surface surface(face, false);
        const gp_Trsf& move = location.Transformation();
        double most = 0;
        for (int k = 1; k <= triangles->NbTriangles(); ++k) {
            int n[3];
            triangles->Triangle(k).Get(n[0], n[1], n[2]);
            Vec3 p[3];
            Vec2 uv[3];
            for (int c = 0; c < 3; ++c) {
                p[c] = to_vec(triangles->Node(n[c]).Transformed(move));
                uv[c] = {triangles->UVNode(n[c]).X(), triangles->UVNode(n[c]).Y()};
            }
            Vec3 normal = (p[1] - p[0]).cross(p[2] - p[0]);
            if (normal.norm() < 1e-12) continue;
            normal.normalize();
            auto look = [&](const Vec2& at) {
                most = std::max(most, std::fabs((to_vec(surface.Value(at.x(), at.y())) - p[0]).dot(normal)));
            };
            look((uv[0] + uv[1] + uv[2]) / 3);
            for (int c = 0; c < 3; ++c) look((uv[c] + uv[(c + 1) % 3]) / 2);
        }
        return most;
    }

    void mesh_tame_faces(const IMeshTools_Parameters& parameters) {
        TopoDS_Compound compound;
        BRep_Builder builder;
        builder.MakeCompound(compound);
        std::vector<bool> wanted = unmeshed(parameters.Deflection);
        for (int i = 1; i <= faces_.Extent(); ++i)
            if (wanted[size_t(i - 1)]) builder.Add(compound, faces_(i));
        BRepMesh_IncrementalMesh(compound, parameters);
        // Its grid may overshoot what was asked for, which half takes care of: as good as it will be next time.
        for (TopExp_Explorer it(compound, TopAbs_FACE); it.More(); it.Next()) {
            TopLoc_Location at;
            auto triangles = BRep_Tool::Triangulation(TopoDS::Face(it.Current()), at);
            if (!triangles.IsNull() && triangles->Deflection() > parameters.Deflection)
                triangles->Deflection(parameters.Deflection);
        }
    }

    std::optional<Problem> add_face(const TopoDS_Face& face, uint32_t index) {
        TopLoc_Location location;
        Handle(Poly_Triangulation) triangulation = BRep_Tool::Triangulation(face, location);
        FaceInfo info;
        if (const TagSet* tags = tags_.Seek(face)) info.tags = *tags;
        if (info.tags.empty()) info.tags = {intern_tag({StepId(), FaceRole::Orphan, index, 0, 0})};
        if (triangulation.IsNull() || triangulation->NbTriangles() == 0)
            return Problem{ProblemCode::Geometry,
                           "The " + tag_words(info.primary()) + " face could not be triangulated.",
                           "Change a size a little."};
        bool reversed = face.Orientation() == TopAbs_REVERSED;
        auto base = uint32_t(points_.size());
        first_point_.push_back(base);
        std::vector<Vec3> normals;
        BRepGProp_Face surface(face); // its normals point outward whatever the face's orientation
        const gp_Trsf& move = location.Transformation();
        for (int k = 1; k <= triangulation->NbNodes(); ++k) {
            points_.push_back(to_vec(triangulation->Node(k).Transformed(move)));
            gp_Pnt at;
            gp_Vec normal(0, 0, 0);
            if (triangulation->HasUVNodes())
                surface.Normal(triangulation->UVNode(k).X(), triangulation->UVNode(k).Y(), at, normal);
            // At a cone's tip there is none: zero stands for "take the facet's".
            normals.push_back(normal.Magnitude() > 1e-12 ? Vec3(to_direction(normal) / normal.Magnitude())
                                                         : Vec3(0, 0, 0));
        }
        Vec3 moment = Vec3::Zero(), sum = Vec3::Zero();
        for (int k = 1; k <= triangulation->NbTriangles(); ++k) {
            int a, b, c;
            triangulation->Triangle(k).Get(a, b, c);
            if (reversed) std::swap(b, c);
            Triangle t{base + uint32_t(a - 1), base + uint32_t(b - 1), base + uint32_t(c - 1)};
            Vec3 vector = (points_[t[1]] - points_[t[0]]).cross(points_[t[2]] - points_[t[0]]) / 2;
            double area = vector.norm();
            info.area_mm2 += area;
            sum += vector;
            moment += area * (points_[t[0]] + points_[t[1]] + points_[t[2]]) / 3;
            result_.mesh.triangles.push_back(t);
            result_.mesh.tags.push_back(info.primary());
            result_.face_of.push_back(index);
            auto at_corner = [&](int node) {
                return normals[size_t(node) - 1].isZero() && area > 0 ? Vec3(vector / area) : normals[size_t(node) - 1];
            };
            result_.normals.push_back({at_corner(a), at_corner(b), at_corner(c)});
        }
        if (info.area_mm2 > 0) info.centre = moment / info.area_mm2;
        if (sum.norm() > 0) info.direction = sum.normalized();
        describe_surface(face, info);
        result_.faces.push_back(std::move(info));
        return std::nullopt;
    }

    void add_edge(const TopoDS_Edge& edge, const TopTools_ListOfShape& faces, UnionFind& same) {
        std::vector<std::vector<uint32_t>> lines; // the edge's nodes on each face, or twice on one face for a seam
        std::vector<int> on;
        for (const TopoDS_Shape& shape : faces) {
            TopoDS_Face face = TopoDS::Face(shape);
            int index = faces_.FindIndex(face) - 1;
            bool seam = BRep_Tool::IsClosed(edge, face);
            for (int side = 0; side < (seam ? 2 : 1); ++side) {
                TopLoc_Location location;
                TopoDS_Edge oriented = side ? TopoDS::Edge(edge.Reversed()) : edge;
                Handle(Poly_Triangulation) triangulation = BRep_Tool::Triangulation(face, location);
                Handle(Poly_PolygonOnTriangulation) polygon =
                    BRep_Tool::PolygonOnTriangulation(oriented, triangulation, location);
                if (polygon.IsNull()) continue;
                std::vector<uint32_t> line;
                for (int k = 1; k <= polygon->NbNodes(); ++k)
                    line.push_back(first_point_[index] + uint32_t(polygon->Node(k) - 1));
                lines.push_back(std::move(line));
                on.push_back(index);
            }
            if (seam) break; // the list names the face twice
        }
        for (size_t k = 1; k < lines.size(); ++k)
            if (lines[k].size() == lines[0].size())
                for (size_t i = 0; i < lines[0].size(); ++i) same.join(lines[0][i], lines[k][i]);
        if (lines.empty()) return;
        if (BRep_Tool::Degenerated(edge)) { // a pole: all its nodes are one place
            for (uint32_t node : lines[0]) same.join(lines[0][0], node);
            return;
        }
        int face_a = on[0], face_b = on.back();
        if (face_a == face_b && lines.size() > 1) return; // a seam is not drawn
        EdgeInfo info;
        info.number = edge_numbers_.FindIndex(edge) - 1;
        info.face_a = face_a;
        info.face_b = lines.size() > 1 ? face_b : -1;
        for (uint32_t node : lines[0]) info.points.push_back(points_[node]);
        for (size_t k = 1; k < info.points.size(); ++k) info.length_mm += (info.points[k] - info.points[k - 1]).norm();
        result_.edges.push_back(std::move(info));
    }

    void join_vertices(UnionFind& same) {
        std::vector<uint32_t> map(points_.size(), ~0u);
        TriMesh& mesh = result_.mesh;
        for (uint32_t i = 0; i < points_.size(); ++i) {
            uint32_t root = same.find(i);
            if (map[root] == ~0u) {
                map[root] = uint32_t(mesh.vertices.size());
                mesh.vertices.push_back(points_[root]);
            }
            map[i] = map[root];
        }
        size_t kept = 0;
        for (size_t i = 0; i < mesh.triangles.size(); ++i) {
            Triangle t{map[mesh.triangles[i][0]], map[mesh.triangles[i][1]], map[mesh.triangles[i][2]]};
            if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue; // collapsed at a pole
            mesh.triangles[kept] = t;
            mesh.tags[kept] = mesh.tags[i];
            result_.face_of[kept] = result_.face_of[i];
            result_.normals[kept] = result_.normals[i];
            ++kept;
        }
        mesh.triangles.resize(kept);
        mesh.tags.resize(kept);
        result_.face_of.resize(kept);
        result_.normals.resize(kept);
    }

    TopoDS_Shape shape_;
    bool flat_ = true;       ///< all tame faces are straight one way
    int free_ = 0;           ///< faces on free surfaces
    std::vector<bool> tame_; ///< the others, of each face
    FaceTags tags_;
    TopTools_IndexedMapOfShape faces_, edge_numbers_;
    std::vector<uint32_t> first_point_;
    std::vector<Vec3> points_;
    Tessellation result_;
};

} // namespace

Expected<Tessellation> tessellate(const Body& body, double deflection_mm) {
    if (!body.is_exact()) return body.tessellation();
    return tessellate_shape(*body.exact(), deflection_mm);
}

Expected<Tessellation> tessellate_shape(const ExactShape& shape, double deflection_mm, bool surely,
                                        TopoDS_Shape* meshed) {
    return guard_kernel("triangulating a body", [&] {
        Mesher mesher(shape, deflection_mm, surely);
        if (meshed) *meshed = mesher.shape();
        return mesher.run();
    });
}

TopoDS_Shape ExactShape::with_triangles() const {
    TopoDS_Shape meshed = meshed_.get();
    return meshed.IsNull() ? shape : meshed;
}

void ExactShape::set_triangles(const TopoDS_Shape& meshed) const {
    meshed_.set(meshed);
}

} // namespace lp
