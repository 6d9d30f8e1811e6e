// One function for each kind of kernel call; see shape/kernel_call.h. Included only by shape/kernel_*.cpp.
#pragma once
#include "shape/kernel_call.h"
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>

namespace lp {

/// Gathers where the faces of a result came from while an algorithm's history is read.
class OriginTable {
  public:
    OriginTable(const KernelCall& call, const TopoDS_Shape& result);
    /// Result face, when it is one.
    void add(const TopoDS_Shape& face, const ElementOrigin& origin);
    void add_all(const TopTools_ListOfShape& faces, const ElementOrigin& origin) {
        for (const TopoDS_Shape& face : faces) add(face, origin);
    }
    /// Every face of an operand by `Modified`: what became of it, or itself where it was kept (the list is empty then,
    /// and the face still in the result).
    template <class History> void modified(History& history, int32_t operand) {
        for (int i = 1; i <= faces_[size_t(operand)].Extent(); ++i) {
            const TopoDS_Shape& face = faces_[size_t(operand)](i);
            ElementOrigin origin{operand, ElementOrigin::Kind::Face, i - 1, false};
            add_all(history.Modified(face), origin);
            add(face, origin);
        }
    }
    /// Faces made from the edges and corners of an operand.
    template <class History> void generated(History& history, int32_t operand) {
        for (int i = 1; i <= edges_[size_t(operand)].Extent(); ++i)
            add_all(history.Generated(edges_[size_t(operand)](i)), {operand, ElementOrigin::Kind::Edge, i - 1, true});
        for (int i = 1; i <= vertices_[size_t(operand)].Extent(); ++i)
            add_all(history.Generated(vertices_[size_t(operand)](i)),
                    {operand, ElementOrigin::Kind::Vertex, i - 1, true});
    }
    /// Whether all of these are faces of the first operand.
    bool has_faces(const std::vector<int32_t>& picks) const;
    const TopTools_IndexedMapOfShape& faces(int32_t operand) const { return faces_[size_t(operand)]; }
    const TopTools_IndexedMapOfShape& edges(int32_t operand) const { return edges_[size_t(operand)]; }
    /// Goes on to a shape whose faces came from these by another algorithm.
    template <class History> void follow(History& history, const TopoDS_Shape& next) {
        TopTools_IndexedMapOfShape before = result_;
        auto origins = std::move(origins_);
        reset(next);
        for (int i = 1; i <= before.Extent(); ++i)
            for (const ElementOrigin& origin : origins[size_t(i - 1)]) {
                add_all(history.Modified(before(i)), origin);
                add(before(i), origin);
            }
    }
    KernelAnswer answer(const TopoDS_Shape& shape);

  private:
    void reset(const TopoDS_Shape& result);
    std::vector<TopTools_IndexedMapOfShape> faces_, edges_, vertices_;
    TopTools_IndexedMapOfShape result_;
    std::vector<std::vector<ElementOrigin>> origins_;
};

/// "The geometry kernel could not ..."
tl::unexpected<Problem> refused(const std::string& what, const char* advice);
/// A shell turned into a solid that encloses, not excludes.
TopoDS_Shape as_solid(const TopoDS_Shape& shape);

Expected<KernelAnswer> combine_call(const KernelCall& call);
Expected<KernelAnswer> part_call(const KernelCall& call);
Expected<KernelAnswer> fillet_call(const KernelCall& call);
Expected<KernelAnswer> chamfer_call(const KernelCall& call);
Expected<KernelAnswer> shell_call(const KernelCall& call);
Expected<KernelAnswer> draft_call(const KernelCall& call);
Expected<KernelAnswer> push_call(const KernelCall& call);
Expected<KernelAnswer> thicken_call(const KernelCall& call);
Expected<KernelAnswer> remove_call(const KernelCall& call);
Expected<KernelAnswer> grow_call(const KernelCall& call);
Expected<KernelAnswer> inset_call(const KernelCall& call);

} // namespace lp
