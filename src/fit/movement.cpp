#include "fit/movement.h"
#include "base/tolerance.h"
#include <atomic>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr size_t most_positions = 20000;

struct Nearest {
    double gap = std::numeric_limits<double>::infinity();
    Vec3 at = Vec3::Zero();
    size_t with = 0;
    bool touching() const { return gap <= tolerance::touching_mm; }
};

/// Smallest gap of the moved body to any of the still ones.
Nearest nearest_at(const MeasuredBody& moving, const std::vector<std::shared_ptr<const MeasuredBody>>& still,
                   const Transform& move, double look) {
    Nearest best;
    Box3 box = moving.tree.box().transformed(move);
    for (size_t i = 0; i < still.size(); ++i) {
        const DistanceTree& other = still[i]->tree;
        double bound = std::min(look, best.gap);
        if (box.exteriorDistance(other.box()) > bound) continue;
        ClosestPair pair = closest_pair(moving.tree, move, other, bound);
        bool within = !pair.crossing && std::isinf(pair.distance_mm) &&
                      (other.inside(move * moving.mesh.corner(0, 0)) ||
                       moving.tree.inside(move.inverse() * still[i]->mesh.corner(0, 0)));
        if (pair.crossing || within) {
            Vec3 at = within ? Vec3(move * moving.mesh.corner(0, 0)) : pair.at_b;
            return {0, at, i};
        }
        if (pair.distance_mm < best.gap) best = {pair.distance_mm, pair.at_b, i};
    }
    return best;
}

/// How far any place of a box goes from one position to another.
double farthest_way(const Box3& box, const Transform& from, const Transform& to) {
    double most = 0; // the way is a linear map of the place: longest at a corner
    for (int i = 0; i < 8; ++i) {
        Vec3 p = box.corner(Box3::CornerType(i));
        most = std::max(most, (to * p - from * p).norm());
    }
    return most;
}

/// The place between a free and a touching one where contact begins.
double begin_of_contact(const MeasuredBody& moving, const std::vector<std::shared_ptr<const MeasuredBody>>& still,
                        const std::function<Transform(double)>& at, double free, double touching, double fine,
                        Nearest* contact = nullptr) {
    for (int round = 0; round < 40 && std::fabs(touching - free) > fine; ++round) {
        double middle = (free + touching) / 2;
        Nearest near = nearest_at(moving, still, at(middle), 0.1);
        if (near.touching()) {
            touching = middle;
            if (contact) *contact = near;
        } else {
            free = middle;
        }
    }
    return touching;
}

} // namespace

const char* MovementPath::unit() const {
    return kind == Kind::Slide ? "mm" : kind == Kind::Legs ? "leg" : "°";
}

Transform MovementPath::at(double position) const {
    double turn = 0, slide = 0;
    switch (kind) {
    case Kind::Turn:
        turn = position;
        break;
    case Kind::Slide:
        slide = position;
        break;
    case Kind::Screw:
        turn = position;
        slide = pitch_mm * position / 360;
        break;
    case Kind::Legs:
        for (size_t i = 0; i < legs.size(); ++i) {
            double share = std::clamp(position - double(i), 0.0, 1.0);
            turn += share * legs[i].turn_deg;
            slide += share * legs[i].slide_mm;
        }
    }
    Vec3 a = axis.normalized();
    Transform move = Transform::Identity();
    move.translate(point + slide * a);
    move.rotate(Eigen::AngleAxisd(radians(turn), a));
    move.translate(-point);
    return move;
}

std::vector<double> MovementPath::positions() const {
    std::vector<double> all;
    double length = to - from, each = std::fabs(step);
    size_t count = size_t(std::ceil(std::fabs(length) / each - 1e-9));
    for (size_t i = 0; i <= count; ++i)
        all.push_back(i == count ? to : from + (length < 0 ? -1 : 1) * each * double(i));
    return all;
}

std::optional<Problem> check_path(const MovementPath& path) {
    auto wrong = [](const char* what, const char* advice) { return Problem{ProblemCode::Range, what, advice}; };
    if (!path.axis.allFinite() || path.axis.norm() < 1e-9)
        return wrong("The movement has no axis.", "Choose a round face or an edge for it, or type a direction.");
    if (path.kind == MovementPath::Kind::Legs && path.legs.empty())
        return wrong("The movement has no legs.", "Write them as: slide 6, turn 30, slide -3.");
    if (!std::isfinite(path.from) || !std::isfinite(path.to) || std::fabs(path.to - path.from) < 1e-9)
        return wrong("The movement goes nowhere.", "Give it two different ends.");
    if (!(std::fabs(path.step) > 1e-9) ||
        std::fabs(path.to - path.from) / std::fabs(path.step) > double(most_positions))
        return wrong("The steps of the movement are too small.", "Use at most 20,000 positions.");
    if (path.kind == MovementPath::Kind::Screw && !std::isfinite(path.pitch_mm))
        return wrong("The screw has no pitch.", "Give it in mm a turn.");
    return std::nullopt;
}

Expected<MovementResult> check_movement(const MeasuredBody& moving,
                                        const std::vector<std::shared_ptr<const MeasuredBody>>& still,
                                        const MovementPath& path, const MovementOptions& options, const Task& task) {
    if (auto wrong = check_path(path)) return pass_on(*wrong);
    if (moving.tree.empty() || still.empty())
        return problem(ProblemCode::Missing, "There is nothing to move, or nothing to move beside.",
                       "Choose a body, and let others stand near it.");
    std::vector<double> positions = path.positions();
    std::vector<Nearest> found(positions.size());
    std::atomic<size_t> done{0};
    // Within a run of positions the gap cannot grow by more than the body moved: a close bound to begin with.
    constexpr size_t run = 12;
    tbb::parallel_for(size_t(0), (positions.size() + run - 1) / run, [&](size_t r) {
        for (size_t i = r * run; i < std::min(positions.size(), (r + 1) * run) && !task.stopped(); ++i) {
            double look = options.look_mm;
            if (i > r * run && std::isfinite(found[i - 1].gap))
                look = std::min(
                    look, found[i - 1].gap +
                              farthest_way(moving.tree.box(), path.at(positions[i - 1]), path.at(positions[i])) + 1e-6);
            found[i] = nearest_at(moving, still, path.at(positions[i]), look);
            task.tell("Moving it", double(++done) / double(positions.size()));
        }
    });
    if (task.stopped()) return cancelled();
    MovementResult result;
    auto at = [&](double position) { return path.at(position); };
    for (size_t i = 0; i < positions.size(); ++i) {
        const Nearest& now = found[i];
        MovementSample sample{positions[i], {}, now.at};
        if (std::isfinite(now.gap)) sample.gap_mm = now.touching() ? 0 : now.gap;
        result.curve.push_back(sample);
        if (now.gap < result.smallest_gap_mm) {
            result.smallest_gap_mm = now.touching() ? 0 : now.gap;
            result.smallest_at = positions[i];
        }
        bool before = i > 0 && found[i - 1].touching();
        if (now.touching() && !before) {
            Nearest contact = now;
            double fine = std::fabs(path.step) / 4096;
            double begin = i == 0 ? positions[0]
                                  : begin_of_contact(moving, still, at, positions[i - 1], positions[i], fine, &contact);
            result.interferences.push_back({begin, positions[i], contact.at, contact.with});
            if (!result.first_contact) result.first_contact = begin;
        } else if (now.touching()) {
            result.interferences.back().to = positions[i];
        } else if (before) {
            result.interferences.back().to =
                begin_of_contact(moving, still, at, positions[i], positions[i - 1], std::fabs(path.step) / 4096);
        }
    }
    return result;
}

Expected<Play> measure_play(const MeasuredBody& moving, const std::vector<std::shared_ptr<const MeasuredBody>>& still,
                            const Vec3& axis, const Task& task) {
    constexpr double farthest_mm = 5, farthest_deg = 30;
    if (axis.norm() < 1e-9)
        return problem(ProblemCode::Range, "The movement has no axis.", "Choose a round face for it.");
    Vec3 a = axis.normalized(), b = a.unitOrthogonal(), c = a.cross(b);
    Vec3 centre = moving.tree.box().center();
    double radius = moving.tree.box().diagonal().norm() / 2;
    if (nearest_at(moving, still, Transform::Identity(), 0.1).touching())
        return problem(ProblemCode::Geometry, "The body touches already: it has no play.", "Give it a gap first.");
    // Steps no longer than the gap cannot pass anything; the last stretch is halved.
    auto how_far = [&](const std::function<Transform(double)>& at, double farthest, double per_unit) {
        double reached = 0;
        for (int round = 0; round < 400 && reached < farthest && !task.stopped(); ++round) {
            Nearest near = nearest_at(moving, still, at(reached), farthest_mm);
            double gap = std::min(near.gap, farthest_mm);
            double step = std::max(gap / per_unit, farthest / 2000);
            double next = std::min(farthest, reached + step);
            if (nearest_at(moving, still, at(next), 0.1).touching())
                return begin_of_contact(moving, still, at, reached, next, farthest * 1e-5);
            reached = next;
        }
        return reached;
    };
    std::vector<Vec3> ways{a, b, c};
    Play play;
    play.shifts.resize(3);
    play.tilts.resize(3);
    tbb::parallel_for(size_t(0), size_t(12), [&](size_t k) {
        const Vec3& d = ways[k % 3];
        double sign = (k / 3) % 2 ? 1 : -1;
        bool tilt = k >= 6;
        auto at = [&](double x) {
            Transform move = Transform::Identity();
            if (!tilt) {
                move.translate(sign * x * d);
            } else {
                move.translate(centre);
                move.rotate(Eigen::AngleAxisd(radians(sign * x), d));
                move.translate(-centre);
            }
            return move;
        };
        double value = how_far(at, tilt ? farthest_deg : farthest_mm, tilt ? radians(1) * std::max(radius, 0.1) : 1);
        Play::Way& way = (tilt ? play.tilts : play.shifts)[k % 3];
        way.direction = d;
        (sign > 0 ? way.plus : way.minus) = value;
    });
    if (task.stopped()) return cancelled();
    return play;
}

} // namespace lp
