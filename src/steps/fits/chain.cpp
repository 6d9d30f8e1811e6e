// Links that come off the bed joined. It stands as it is printed, and nothing in it hangs beyond the limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"

namespace lp {
namespace {

/// One link from joint to joint, its tongue on the axis at x 0, its fork on the axis at `pitch`.
struct LinkPieces {
    Body body;
    Body halo; ///< of the fork's knuckles; none without a fork
};

Expected<LinkPieces> make_link(const KnuckleRow& row, double pitch, double width, bool tongue, bool fork,
                               const StepContext& context, uint64_t salt) {
    const double r = row.radius_mm, g = row.gap_mm, third = width / 3, half = width / 2;
    const double top = row.axis_z_mm() + r * 0.7071;
    std::vector<Body> pieces;
    std::vector<Body> halos;
    auto take = [&](Expected<Body> body, std::vector<Body>& into) -> std::optional<Problem> {
        if (!body) return body.error();
        into.push_back(*body);
        return std::nullopt;
    };
    // The bar: cut flat where an end has no neighbour.
    double from = tongue ? r + g : -r, to = fork ? pitch - r - g : pitch + r;
    std::optional<Problem> wrong = take(joint_block({from, -half, 0}, {to, half, top}, context, salt + 1), pieces);
    if (tongue && !wrong) {
        wrong = take(knuckle(row, -third / 2, third / 2, false, false, 0, context, salt + 2), pieces);
        if (!wrong)
            wrong = take(joint_block({0, -third / 2, 0}, {r + g + 0.01, third / 2, top}, context, salt + 4), pieces);
    }
    if (fork && !wrong) {
        double inner = third / 2 + g; // the tongue fills the middle third
        std::vector<Body> at_joint;
        for (int side = 0; side < 2 && !wrong; ++side) {
            double low = side ? inner : -half, high = side ? half : -inner;
            wrong = take(knuckle(row, low, high, side == 1, side == 0, 0, context, salt + 6 + 10 * side), at_joint);
            if (!wrong)
                wrong = take(knuckle(row, low, high, side == 1, side == 0, g, context, salt + 8 + 10 * side), halos);
            if (!wrong)
                wrong = take(joint_block({-r - g - 0.01, low, 0}, {0, high, top}, context, salt + 10 + 10 * side),
                             at_joint);
        }
        Transform move = Transform::Identity();
        move.translate(Vec3(pitch, 0, 0));
        for (const Body& body : at_joint)
            if (!wrong) wrong = take(moved(body, move), pieces);
        for (Body& halo : halos) {
            auto shifted = moved(halo, move);
            if (!shifted) return pass_on(shifted);
            halo = *shifted;
        }
    }
    if (wrong) return pass_on(*wrong);
    LinkPieces link;
    auto body = joined(pieces, context);
    if (!body) return pass_on(body);
    link.body = *body;
    if (!halos.empty()) {
        auto halo = joined(halos, context);
        if (!halo) return pass_on(halo);
        link.halo = *halo;
    }
    return link;
}

Expected<StepResult> make_chain(const std::vector<StepBody>& before, const StepContext& context) {
    auto row = knuckle_row(context, context.number("barrel"));
    if (!row) return pass_on(row);
    const int count = int(context.number("links"));
    const double pitch = context.number("pitch"), width = context.number("width"), r = row->radius_mm, g = row->gap_mm;
    if (pitch < 2 * (r + g) + context.line_mm)
        return problem(ProblemCode::Range, "The links are too short: there is nothing between their joints.",
                       "Use a pitch of " + in_mm(2 * (r + g) + 4 * context.line_mm) + " or more.");
    if (width / 3 < 2 * row->bump_height_mm() + context.line_mm || width / 3 - g < 3 * context.line_mm)
        return problem(ProblemCode::Range, "The links are too narrow for three knuckles side by side.",
                       "Make them wider, or the barrel thinner.");
    // The first, a middle one and the last are made; the rest are copies. A tongue is opened by the fork before it.
    std::vector<StepBody> made;
    std::map<std::pair<bool, bool>, LinkPieces> kinds;
    Transform back = Transform::Identity();
    back.translate(Vec3(-pitch, 0, 0));
    std::optional<Body> fork_halo; // at x 0
    for (int k = 0; k < count; ++k) {
        if (context.cancelled()) return cancelled();
        context.task.tell("Making links", double(k) / count);
        bool tongue = k > 0, fork = k + 1 < count;
        auto kind = kinds.find({tongue, fork});
        if (kind == kinds.end()) {
            auto link = make_link(*row, pitch, width, tongue, fork, context, uint64_t(100 * (1 + tongue + 2 * fork)));
            if (!link) return pass_on(link);
            if (fork && !fork_halo) {
                auto halo = moved(link->halo, back);
                if (!halo) return pass_on(halo);
                fork_halo = *halo;
            }
            if (tongue) {
                auto opened = without(link->body, {*fork_halo}, context);
                if (!opened) return pass_on(opened);
                link->body = *opened;
            }
            kind = kinds.emplace(std::pair(tongue, fork), *link).first;
        }
        Affine place = Affine(Eigen::Translation3d(k * pitch, 0, 0));
        auto body = mapped(kind->second.body, place);
        if (!body) return pass_on(body);
        StepBody link{{},
                      piece_name(context, "link") + " " + std::to_string(k + 1),
                      renamed_copy(*body, context.step_id, uint64_t(k) + 1),
                      {}};
        if (fork) {
            auto halo = mapped(kind->second.halo, place);
            if (!halo) return pass_on(halo);
            link.halos.push_back({context.step_id, context.word("fit"), g, *halo});
        }
        made.push_back(std::move(link));
    }
    return stand_joint(before, std::move(made), hold_note(*row), context);
}

} // namespace

StepKind chain_kind() {
    StepKind kind =
        joint_kind("chain", "Chain", "Links that come off the bed joined, their ends cut clean.",
                   {{"links", FieldKind::Count, "5", 2, 500, {}, "in a row"},
                    joint_length("pitch", "20 mm", "from joint to joint"),
                    joint_length("width", "15 mm", "of a link"),
                    joint_length("barrel", "8 mm", "across the knuckles"),
                    {"bumps", FieldKind::Choice, "ball", 0, 0, {"ball", "cone"}, "what holds the knuckles"}});
    kind.sentence =
        std::string("Chain of {links} link|links {pitch} long and {width} wide, knuckles {barrel} across, held by "
                    "a {bumps} each") +
        joint_standing;
    kind.group = StepGroup::Fits;
    kind.synonyms = {"links"};
    kind.evaluate = make_chain;
    return kind;
}

} // namespace lp
