// Links that come off the bed joined. It stands as it is printed, and nothing in it hangs beyond the limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/fits/chamfered_foot.h"
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

/// The first, a middle one and the last link; the rest are copies. All stand with their tongue at x 0.
class LinkKinds {
  public:
    LinkKinds(const KnuckleRow& row, double pitch, double width, const StepContext& context)
        : row_(row), pitch_(pitch), width_(width), context_(context) {}

    /// With chamfered feet where they are wanted.
    Expected<LinkPieces> link(bool tongue, bool fork) {
        const std::pair key(tongue, fork);
        if (auto found = whole_.find(key); found != whole_.end()) return found->second;
        auto made = plain(tongue, fork);
        if (!made || plain_foot(context_)) return made;
        if (auto wrong = find_feet()) return pass_on(*wrong);
        for (const auto& [wanted, tool] : {std::pair(fork, feet_.of_a), std::pair(tongue, feet_.of_b)}) {
            if (!wanted || !tool) continue;
            auto cut = without(made->body, {*tool}, context_);
            if (!cut) return pass_on(cut);
            made->body = *cut;
        }
        return whole_.emplace(key, *made).first->second;
    }

  private:
    /// A tongue is opened by the fork before it.
    Expected<LinkPieces> plain(bool tongue, bool fork) {
        const std::pair key(tongue, fork);
        if (auto found = plain_.find(key); found != plain_.end()) return found->second;
        auto link = make_link(row_, pitch_, width_, tongue, fork, context_, uint64_t(100 * (1 + tongue + 2 * fork)));
        if (!link) return link;
        if (tongue) {
            auto first = plain(false, true);
            if (!first) return first;
            auto halo = along(first->halo, -pitch_);
            if (!halo) return pass_on(halo);
            auto opened = without(link->body, {*halo}, context_);
            if (!opened) return pass_on(opened);
            link->body = *opened;
        }
        return plain_.emplace(key, *link).first->second;
    }

    /// Worked out once: the feet of a fork, and of the tongue in it.
    std::optional<Problem> find_feet() {
        if (found_) return std::nullopt;
        auto first = plain(false, true), last = plain(true, false);
        if (!first || !last) return !first ? first.error() : last.error();
        auto beside = along(last->body, pitch_);
        if (!beside) return beside.error();
        auto tools = foot_tools(first->body, *beside, Transform::Identity(), context_, 0xf007);
        if (!tools) return tools.error();
        feet_ = *tools;
        if (feet_.of_b) {
            auto home = along(*feet_.of_b, -pitch_);
            if (!home) return home.error();
            feet_.of_b = *home;
        }
        found_ = true;
        return std::nullopt;
    }

    static Expected<Body> along(const Body& body, double x) {
        Transform way = Transform::Identity();
        way.translate(Vec3(x, 0, 0));
        return moved(body, way);
    }

    const KnuckleRow& row_;
    double pitch_, width_;
    const StepContext& context_;
    std::map<std::pair<bool, bool>, LinkPieces> plain_, whole_;
    FootTools feet_;
    bool found_ = false;
};

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
    std::vector<StepBody> made;
    LinkKinds kinds(*row, pitch, width, context);
    for (int k = 0; k < count; ++k) {
        if (context.cancelled()) return cancelled();
        context.task.tell("Making links", double(k) / count);
        const bool fork = k + 1 < count;
        auto kind = kinds.link(k > 0, fork);
        if (!kind) return pass_on(kind);
        Affine place = Affine(Eigen::Translation3d(k * pitch, 0, 0));
        auto body = mapped(kind->body, place);
        if (!body) return pass_on(body);
        StepBody link{{},
                      piece_name(context, "link") + " " + std::to_string(k + 1),
                      renamed_copy(*body, context.step_id, uint64_t(k) + 1),
                      {}};
        if (fork) {
            auto halo = mapped(kind->halo, place);
            if (!halo) return pass_on(halo);
            link.halos.push_back({context.step_id, context.word("fit"), g, *halo});
        }
        made.push_back(std::move(link));
    }
    return stand_joint(before, std::move(made), hold_note(*row), context, true);
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
