// A body: exact (boundary representation of the geometry kernel) or faceted (triangles). Immutable and cheap to copy.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <memory>
#include <optional>
#include <vector>

namespace lp {

struct ExactShape; // the kernel's shape with its face tags; see shape/exact_shape.h

enum class SurfaceKind { Plane, Cylinder, Cone, Sphere, Other };

/// One face of a body as the view, the offers and references need it.
struct FaceInfo {
    TagSet tags;
    SurfaceKind kind = SurfaceKind::Other;
    Vec3 centre = Vec3::Zero();     ///< a point near the middle of the face, area-weighted
    Vec3 direction = Vec3::UnitZ(); ///< outward normal of a plane; axis of a round face
    Vec3 axis_point = Vec3::Zero(); ///< on the axis of an exact cylinder or cone; centre of a sphere
    double radius_mm = 0;           ///< of a cylinder or sphere
    double area_mm2 = 0;
    Tag primary() const { return tags.empty() ? 0 : tags.front(); }
};

/// One edge as a polyline between two faces.
struct EdgeInfo {
    std::vector<Vec3> points;
    int face_a = -1, face_b = -1; ///< indices of faces; -1 for none
    int number = -1;              ///< of an exact body's edge, in the kernel's order; -1 for faceted ones
    double length_mm = 0;
};

/// Triangles of a body with the faces and edges they stand for. Closed when the body is.
struct Tessellation {
    TriMesh mesh;                             ///< shared vertices; tags carry the primary tag of each face
    std::vector<uint32_t> face_of;            ///< face index of each triangle
    std::vector<std::array<Vec3, 3>> normals; ///< outward unit normals at the corners of each triangle
    std::vector<FaceInfo> faces;
    std::vector<EdgeInfo> edges;
};

class Body {
  public:
    Body() = default;
    /// Takes a kernel shape and measures it (but for what is known of it). Its triangles are made when they are first
    /// asked for.
    static Expected<Body> from_exact(std::shared_ptr<const ExactShape> shape, std::optional<Box3> box = {},
                                     std::optional<MassProperties> mass = {});
    /// Takes triangles as they are.
    static Body from_mesh(TriMesh mesh);

    /// The same exact body with other names for its faces: `names` holds the same shape.
    Body with_names(std::shared_ptr<const ExactShape> names) const;

    explicit operator bool() const { return triangles_ != nullptr; }
    bool is_exact() const { return exact_ != nullptr; }
    const std::shared_ptr<const ExactShape>& exact() const { return exact_; }
    /// Triangles at the export deflection, made once, by whichever thread asks first; empty when check_triangles()
    /// fails.
    const Tessellation& tessellation() const { return *shared_tessellation(); }
    const std::shared_ptr<const Tessellation>& shared_tessellation() const;
    const TriMesh& mesh() const { return tessellation().mesh; }
    /// Problem when a face cannot be triangulated or the triangles do not enclose the body's volume.
    std::optional<Problem> check_triangles() const;
    /// Exact for exact bodies, by facets otherwise.
    const MassProperties& mass() const { return mass_; }
    /// Exact for exact bodies, of the triangles otherwise. Worked out when it is first asked for.
    const Box3& box() const;
    /// Frame a face was born in, by tag; known for flat faces of exact bodies made here.
    std::optional<BirthFrame> birth(Tag tag) const;
    /// Number of separate solids (exact) or edge-connected pieces (faceted).
    int pieces() const { return pieces_; }
    /// Roughly what it holds in memory: the triangles made so far, and the kernel's faces. Copies hold one and the
    /// same.
    struct Weight {
        const void* of = nullptr;
        size_t bytes = 0;
    };
    Weight weight() const;

  private:
    std::shared_ptr<const ExactShape> exact_;
    struct Triangles;
    std::shared_ptr<Triangles> triangles_; ///< shared by copies
    struct Bounds;
    std::shared_ptr<Bounds> bounds_;
    MassProperties mass_;
    int pieces_ = 0;
};

/// Triangles of a body with chord errors of at most `deflection_mm`; a faceted body's own triangles.
Expected<Tessellation> tessellate(const Body& body, double deflection_mm);
/// Faces and edges of a bare mesh: patches whose facets meet at less than 20 degrees. Linear.
Tessellation segment_mesh(TriMesh mesh);
/// The body turned and moved; face tags are kept.
Expected<Body> moved(const Body& body, const Transform& move);

} // namespace lp
