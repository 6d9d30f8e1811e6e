#include "steps/edges/shell_hollow.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_boolean.h"
#include "shape/exact_shape.h"
#include "shape/mesh_distance.h"
#include "shape/opening_tool.h"
#include "steps/kernel_step.h"

namespace lp {
namespace {

/// The tag as it is in the part that is not remade.
Tag plain_tag(Tag tag) {
    auto root = tag_meaning(tag);
    while (root && root->role == FaceRole::Derived) root = tag_meaning(root->parent);
    return root ? tag_in_copy(tag, root->copy) : tag;
}

/// The faces of a remade hollow named as what they are: inner walls of the faces they answer to.
Body with_inner_names(const Body& hollow, const Body& of, const StepContext& context) {
    auto named = std::make_shared<ExactShape>();
    named->shape = hollow.exact()->shape;
    std::map<Tag, Tag> theirs;
    for (const FaceInfo& face : of.tessellation().faces)
        for (Tag tag : face.tags) theirs.emplace(plain_tag(tag), tag);
    for (FaceTags::Iterator it(hollow.exact()->tags); it.More(); it.Next()) {
        TagSet tags;
        for (Tag tag : it.Value()) {
            auto found = theirs.find(plain_tag(tag));
            add_tags(tags, {derive_tag(found == theirs.end() ? tag : found->second, context.step_id, 0)});
        }
        named->tags.Bind(it.Key(), tags);
    }
    return hollow.with_names(named);
}

/// What is wrong with a hollow as the inside of a body: the wall between them measured at every corner and in the
/// middle of every facet, against the triangles of the body. Those lie up to the export deflection beside its surface.
std::optional<Problem> check_wall(const Body& outer, const Body& hollow, double wall, double other_wall) {
    auto wrong = [](const std::string& what) {
        return Problem{
            ProblemCode::Geometry, what,
            "Make the wall thinner than the smallest inner radius, or shell before the fillets and details."};
    };
    if (hollow.pieces() != outer.pieces()) return wrong("The hollow falls into pieces.");
    if (auto bad = hollow.check_triangles()) return bad;
    const double slack = 2.5 * tolerance::export_deflection_mm;
    const double least = std::min(wall, other_wall), most = std::max(wall, other_wall);
    DistanceTree skin(outer.mesh());
    const Tessellation& t = hollow.tessellation();
    for (const Vec3& corner : t.mesh.vertices)
        if (double d = skin.closest(corner).distance_mm; d < least - slack || !skin.inside(corner))
            return wrong("The wall would be " + format_number(skin.inside(corner) ? d : 0) +
                         " mm in one place instead of " + format_number(least) + " mm.");
    // A face of the hollow is at the wall's distance somewhere: else it is not the inside of anything.
    std::vector<double> nearest(t.faces.size(), 1e300);
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
        Vec3 middle = (t.mesh.corner(i, 0) + t.mesh.corner(i, 1) + t.mesh.corner(i, 2)) / 3;
        double& face = nearest[t.face_of[i]];
        face = std::min(face, skin.closest(middle).distance_mm);
    }
    for (double d : nearest)
        if (d < 1e300 && d > most + slack)
            return wrong("The wall would be " + format_number(d) + " mm in one place instead of " +
                         format_number(most) + " mm.");
    return std::nullopt;
}

class HollowMaker {
  public:
    HollowMaker(const std::vector<StepBody>& before, const StepContext& context, const ShellWish& wish)
        : before_(before), context_(context), wish_(wish), body_(before[wish.body].body) {}

    Expected<Body> made() {
        std::optional<Problem> first;
        for (auto way : {&HollowMaker::remade, &HollowMaker::offset_round, &HollowMaker::offset_sharp}) {
            if (context_.cancelled()) return cancelled();
            auto pair = (this->*way)();
            if (pair) pair = with_other_walls(std::move(*pair));
            if (pair) {
                auto wrong = check_wall(pair->outer, pair->inner, wish_.wall_mm,
                                        wish_.other.empty() ? wish_.wall_mm : wish_.other_mm);
                auto shell = wrong ? Expected<Body>(pass_on(*wrong)) : opened(*pair);
                if (shell || shell.error().code == ProblemCode::Cancelled) return shell;
                if (!first) first = shell.error();
            } else if (pair.error().code == ProblemCode::Cancelled) {
                return pass_on(pair);
            } else if (!first) {
                first = pair.error();
            }
        }
        return pass_on(*first);
    }

  private:
    struct Pair {
        Body outer, inner;
    };
    Pair pair_with(const Body& other) const {
        return wish_.inward ? Pair{body_, with_inner_names(other, body_, context_)}
                            : Pair{with_inner_names(other, body_, context_), body_};
    }

    /// By the steps before this one, each with its outside moved by the wall.
    Expected<Pair> remade() const {
        auto nothing = [](const std::string& why) {
            return problem(ProblemCode::Geometry, why, "Shell before the fillets and details.");
        };
        if (!context_.remade) return nothing("The part cannot be remade.");
        double by = context_.growth_mm + (wish_.inward ? -wish_.wall_mm : wish_.wall_mm);
        auto bodies = context_.remade(by);
        if (!bodies) return pass_on(bodies);
        if (bodies->size() != before_.size() || !(*bodies)[wish_.body].body.is_exact())
            return nothing("The hollow comes out as something else.");
        return pair_with((*bodies)[wish_.body].body);
    }

    /// By the kernel, rounds without an inside taken away first.
    Expected<Pair> offset_round() const { return offset(0); }
    Expected<Pair> offset_sharp() const { return offset(1); }
    Expected<Pair> offset(double sharp) const {
        KernelCall call;
        call.what = "inset";
        call.numbers = {wish_.inward ? wish_.wall_mm : -wish_.wall_mm, sharp};
        if (wish_.inward)
            for (size_t face : rounds_without_inside(body_, wish_.wall_mm)) call.picks.push_back(int32_t(face));
        double volume = body_.mass().volume_mm3;
        auto made = run_kernel_step(body_, call, context_, "A shell", 0,
                                    wish_.inward ? volume : volume + 4 * wish_.wall_mm * body_.mass().area_mm2);
        if (!made) return pass_on(made);
        return wish_.inward ? Pair{body_, *made} : Pair{*made, body_};
    }

    /// Walls of their own: the hollow's face is pushed to where they want it.
    Expected<Pair> with_other_walls(Pair pair) const {
        Body& moves = wish_.inward ? pair.inner : pair.outer;
        for (size_t face : wish_.other) {
            KernelCall call;
            call.what = "push";
            call.numbers = {wish_.wall_mm - wish_.other_mm};
            if (!wish_.inward) call.numbers[0] *= -1;
            if (std::fabs(call.numbers[0]) < tolerance::same_mm) continue;
            auto at = answering(moves, face);
            if (!at)
                return problem(ProblemCode::Geometry, "A face with a wall of its own has no inside.",
                               "Choose another.");
            call.picks = {int32_t(*at)};
            double volume = moves.mass().volume_mm3, area = moves.tessellation().faces[*at].area_mm2;
            auto pushed = run_kernel_step(moves, call, context_, "A shell", 0,
                                          volume + 3 * area * std::fabs(call.numbers[0]) + 1);
            if (!pushed) return pass_on(pushed);
            moves = *pushed;
        }
        return pair;
    }

    /// The face of the other body that answers to one of this.
    std::optional<size_t> answering(const Body& other, size_t face) const {
        const auto& faces = other.tessellation().faces;
        for (Tag tag : body_.tessellation().faces[face].tags)
            for (size_t i = 0; i < faces.size(); ++i)
                if (has_tag(faces[i].tags, derive_tag(tag, context_.step_id, 0))) return i;
        return std::nullopt;
    }

    Expected<Body> opened(const Pair& pair) const {
        std::vector<size_t> open, other;
        for (auto [from, to] : {std::pair(&wish_.open, &open), std::pair(&wish_.other, &other)})
            for (size_t face : *from) {
                std::optional<size_t> at = wish_.inward ? std::optional(face) : answering(pair.outer, face);
                if (!at) return problem(ProblemCode::Geometry, "A chosen face has no outside.", "Choose another.");
                to->push_back(*at);
            }
        // Flush first; a cut the kernel trips over is made with the way in standing out of the face.
        std::optional<Problem> why;
        for (double above : {0.0, 1.0}) {
            std::vector<Body> tools{pair.inner};
            for (size_t face : open) {
                auto tool = opening_tool(pair.outer,
                                         {face, open, wish_.wall_mm, other, wish_.other_mm, above, context_.step_id},
                                         context_.task);
                if (!tool && tool.error().code != ProblemCode::Cancelled)
                    if (auto swept = swept_way_in(pair, face, above)) tool = *swept;
                if (!tool) return tool;
                tools.push_back(std::move(*tool));
            }
            auto shell = combine_exact(Operation::Cut, pair.outer, tools, context_.task);
            if (shell && shell->pieces() != pair.outer.pieces())
                shell = problem(ProblemCode::Geometry,
                                "The shell falls into " + std::to_string(shell->pieces()) + " pieces.",
                                "Open fewer faces, or make the wall thicker.");
            if (shell)
                if (auto bad = shell->check_triangles()) shell = pass_on(*bad);
            if (shell || shell.error().code == ProblemCode::Cancelled) return shell;
            if (!why) why = shell.error();
        }
        return pass_on(*why);
    }

    /// From the hollow's own face outward: where a wall beside the open face is of a kind that no strip follows.
    std::optional<Body> swept_way_in(const Pair& pair, size_t face, double above) const {
        const auto &skin = pair.outer.tessellation().faces, &inner = pair.inner.tessellation().faces;
        if (skin[face].kind != SurfaceKind::Plane) return std::nullopt;
        for (size_t i = 0; i < inner.size(); ++i) {
            double depth = (skin[face].centre - inner[i].centre).dot(skin[face].direction);
            if (inner[i].kind != SurfaceKind::Plane || inner[i].direction.dot(skin[face].direction) < 1 - 1e-9 ||
                std::fabs(depth - wish_.wall_mm) > 1e-4)
                continue;
            auto tool = swept_face(pair.inner, i, wish_.wall_mm + above);
            if (tool) return *tool;
        }
        return std::nullopt;
    }

    const std::vector<StepBody>& before_;
    const StepContext& context_;
    const ShellWish& wish_;
    const Body& body_;
};

} // namespace

Expected<bool> needs_hollow(const Body& body, const ShellWish& wish) {
    return guard_kernel("looking at its rounds", [&]() -> Expected<bool> {
        for (size_t face : wish.open)
            if (runs_on_smoothly(body, face)) return true;
        return wish.inward && !rounds_without_inside(body, wish.wall_mm).empty();
    });
}

Expected<Body> shell_by_hollow(const std::vector<StepBody>& before, const StepContext& context, const ShellWish& wish) {
    return guard_kernel("hollowing a body", [&] { return HollowMaker(before, context, wish).made(); });
}

} // namespace lp
