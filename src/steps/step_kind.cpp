#include "steps/step_kind.h"
#include <algorithm>

// Every kind there is, a line each, in the order they are offered. A kind's own file defines NAME_kind().
#define LP_STEP_KINDS(KIND)                                                                                            \
    KIND(block)                                                                                                        \
    KIND(cylinder)                                                                                                     \
    KIND(prism)                                                                                                        \
    KIND(cone)                                                                                                         \
    KIND(sphere)                                                                                                       \
    KIND(half_sphere)                                                                                                  \
    KIND(wedge)                                                                                                        \
    KIND(pyramid)                                                                                                      \
    KIND(ring)                                                                                                         \
    KIND(dome)                                                                                                         \
    KIND(thread)                                                                                                       \
    KIND(bought)                                                                                                       \
    KIND(hole_for)                                                                                                     \
    KIND(screw_joint)                                                                                                  \
    KIND(outline)                                                                                                      \
    KIND(extrude)                                                                                                      \
    KIND(revolve)                                                                                                      \
    KIND(sweep)                                                                                                        \
    KIND(loft)                                                                                                         \
    KIND(move)                                                                                                         \
    KIND(turn)                                                                                                         \
    KIND(cut_with)                                                                                                     \
    KIND(join)                                                                                                         \
    KIND(cut)                                                                                                          \
    KIND(common)                                                                                                       \
    KIND(bring_in)                                                                                                     \
    KIND(simplify)                                                                                                     \
    KIND(rebuild)                                                                                                      \
    KIND(smooth)                                                                                                       \
    KIND(remesh)                                                                                                       \
    KIND(mend)                                                                                                         \
    KIND(fillet)                                                                                                       \
    KIND(chamfer)                                                                                                      \
    KIND(shell)                                                                                                        \
    KIND(draft)                                                                                                        \
    KIND(push)                                                                                                         \
    KIND(remove_faces)                                                                                                 \
    KIND(move_faces)                                                                                                   \
    KIND(brush_face)                                                                                                   \
    KIND(set_apart)                                                                                                    \
    KIND(diameter)                                                                                                     \
    KIND(faces_body)                                                                                                   \
    KIND(scale)                                                                                                        \
    KIND(mirror)                                                                                                       \
    KIND(align)                                                                                                        \
    KIND(seat)                                                                                                         \
    KIND(repeat)                                                                                                       \
    KIND(repeat_round)                                                                                                 \
    KIND(repeat_path)                                                                                                  \
    KIND(split)                                                                                                        \
    KIND(interlocked_split)                                                                                            \
    KIND(pinned_split)                                                                                                 \
    KIND(pieces)                                                                                                       \
    KIND(widen)                                                                                                        \
    KIND(take)                                                                                                         \
    KIND(leave_out)                                                                                                    \
    KIND(bend)                                                                                                         \
    KIND(skew)                                                                                                         \
    KIND(twist)                                                                                                        \
    KIND(taper)                                                                                                        \
    KIND(stretch)                                                                                                      \
    KIND(lie_on)                                                                                                       \
    KIND(inlay)                                                                                                        \
    KIND(rib)                                                                                                          \
    KIND(gusset)                                                                                                       \
    KIND(meet)                                                                                                         \
    KIND(full_round)                                                                                                   \
    KIND(pointed_roof)                                                                                                 \
    KIND(closing_layer)                                                                                                \
    KIND(ridges)                                                                                                       \
    KIND(halo)                                                                                                         \
    KIND(chamfer_feet)                                                                                                 \
    KIND(print_solid)                                                                                                  \
    KIND(open_for_halos)                                                                                               \
    KIND(snap_hook)                                                                                                    \
    KIND(rod_clip)                                                                                                     \
    KIND(living_hinge)                                                                                                 \
    KIND(hinge)                                                                                                        \
    KIND(chain)                                                                                                        \
    KIND(captive_pin)                                                                                                  \
    KIND(swivel_cap)                                                                                                   \
    KIND(captive_slider)                                                                                               \
    KIND(lock_groove)                                                                                                  \
    KIND(lock_lugs)                                                                                                    \
    KIND(crop)

namespace lp {

#define LP_DECLARE(id) StepKind id##_kind();
LP_STEP_KINDS(LP_DECLARE)

const std::vector<StepKind>& step_kinds() {
#define LP_LIST(id) id##_kind(),
    static const std::vector<StepKind> kinds{LP_STEP_KINDS(LP_LIST)};
    return kinds;
}

const StepKind* find_step_kind(const std::string& id) {
    static const std::map<std::string, const StepKind*> by_id = [] {
        std::map<std::string, const StepKind*> all;
        for (const StepKind& kind : step_kinds()) all[kind.id] = &kind;
        all["raise"] = all.at("extrude"); // what files called it before
        return all;
    }();
    auto found = by_id.find(id);
    return found == by_id.end() ? nullptr : found->second;
}

const char* group_title(StepGroup group) {
    static constexpr const char* titles[] = {"Solids",          "Outlines and what grows from them",
                                             "Edges and faces", "Place and repeat",
                                             "Split and part",  "Bend and twist",
                                             "Fits and joints", "Meshes"};
    return titles[size_t(group)];
}

const StepField* StepKind::field(const std::string& name) const {
    for (const StepField& f : fields)
        if (f.name == name) return &f;
    return nullptr;
}

const StepField* StepKind::field_as(FieldRole role) const {
    for (const StepField& f : fields)
        if (f.role == role) return &f;
    return nullptr;
}

const StepField* StepKind::field_of(FieldKind kind) const {
    for (const StepField& f : fields)
        if (f.kind == kind) return &f;
    return nullptr;
}

} // namespace lp
