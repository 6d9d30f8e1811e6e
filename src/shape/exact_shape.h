// The kernel's side of a body. Included only inside shape/ and steps/*.cpp.
#pragma once
#include "base/problem.h"
#include "shape/body.h"
#include "shape/tags.h"
#include <NCollection_DataMap.hxx>
#include <Standard_Failure.hxx>
#include <TopTools_ShapeMapHasher.hxx>
#include <TopoDS_Shape.hxx>
#include <exception>
#include <memory>

namespace lp {

using FaceTags = NCollection_DataMap<TopoDS_Shape, TagSet, TopTools_ShapeMapHasher>;

/// A shape kept beside another, set and read by any thread. Copies begin empty: they belong to another shape.
class KeptShape {
  public:
    KeptShape() = default;
    KeptShape(const KeptShape&) {}
    KeptShape& operator=(const KeptShape&) {
        std::atomic_store(&kept_, std::shared_ptr<const TopoDS_Shape>());
        return *this;
    }
    void set(const TopoDS_Shape& shape) { std::atomic_store(&kept_, std::make_shared<const TopoDS_Shape>(shape)); }
    /// Null when none was set.
    TopoDS_Shape get() const {
        auto kept = std::atomic_load(&kept_);
        return kept ? *kept : TopoDS_Shape();
    }

  private:
    std::shared_ptr<const TopoDS_Shape> kept_;
};

struct ExactShape {
    TopoDS_Shape shape; ///< a solid or a compound of solids
    FaceTags tags;
    BirthFrames births; ///< of the faces whose makers know one

    /// The same with the triangles of all its faces, once they have been made; else `shape`. Any thread. Kernel calls
    /// that leave faces as they are hand their triangles on: such faces need no second look.
    TopoDS_Shape with_triangles() const;
    void set_triangles(const TopoDS_Shape& meshed) const;

  private:
    mutable KeptShape meshed_;
};

/// Runs a kernel call in place and turns whatever it throws into a Problem. The one door to calls that may fail;
/// a helper process takes its place later (docs/architecture.md, "The kernel guard").
template <class Call> auto guard_kernel(const char* what, Call call) -> decltype(call()) {
    try {
        return call();
    } catch (const Standard_Failure& failure) {
        const char* said = failure.GetMessageString();
        return problem(ProblemCode::Geometry,
                       std::string("The geometry kernel gave up on ") + what +
                           (said && *said ? std::string(": ") + said + "." : "."),
                       "Change a size a little, or move the body by 0.01 mm.");
    } catch (const std::exception& failure) {
        return problem(ProblemCode::Geometry,
                       std::string("The geometry kernel gave up on ") + what + ": " + failure.what() + ".",
                       "Change a size a little, or move the body by 0.01 mm.");
    }
}

/// As tessellate(Body), for a shape that is no body yet. `surely`: by the kernel's older triangulation, which takes ten
/// times as long on flat faces with many holes, and all faces anew. `meshed` gets a copy that carries the triangles.
Expected<Tessellation> tessellate_shape(const ExactShape& shape, double deflection_mm, bool surely = false,
                                        TopoDS_Shape* meshed = nullptr);

} // namespace lp
