#include "outline/arrangement.h"
#include "base/tolerance.h"
#include "outline/curve_meet.h"
#include "outline/planar_graph.h"
#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <cmath>
#include <unordered_map>
#include <unordered_set>

namespace lp {

namespace bg = boost::geometry;
using BoostPoint = bg::model::point<double, 2, bg::cs::cartesian>;
using BoostBox = bg::model::box<BoostPoint>;
using Entry = std::pair<BoostBox, uint32_t>;
using Tree = bg::index::rtree<Entry, bg::index::quadratic<16>>;

namespace {

/// Meetings nearer than this are one node: rounding of the solver and of files, far below any print.
constexpr double merge_mm = 1e-6;
/// Chords of curves that are neither straight nor round, while their meetings are looked for.
constexpr double chord_mm = 2e-3;
constexpr size_t most_meetings = 300'000; // what a drawing of 500 MB of regions comes from

/// A straight or round piece of a source.
struct Piece {
    Curve curve;
    uint32_t source;
    double t0, t1; ///< on the source
};

struct Split {
    double t; ///< on the source
    uint32_t node;
    bool operator<(const Split& other) const { return t < other.t; }
};

BoostBox boost_box(const Box2& b, double margin) {
    return {{b.min().x() - margin, b.min().y() - margin}, {b.max().x() + margin, b.max().y() + margin}};
}

/// Points nearer than a tolerance are one node.
class NodeTable {
  public:
    uint32_t node(const Vec2& p) {
        long x = long(std::floor(p.x() / cell)), y = long(std::floor(p.y() / cell));
        for (long i = x - 1; i <= x + 1; ++i)
            for (long k = y - 1; k <= y + 1; ++k) {
                auto range = cells_.equal_range(key(i, k));
                for (auto it = range.first; it != range.second; ++it)
                    if ((points_[it->second] - p).squaredNorm() <= merge_mm * merge_mm) return it->second;
            }
        points_.push_back(p);
        cells_.emplace(key(x, y), uint32_t(points_.size() - 1));
        return uint32_t(points_.size() - 1);
    }
    std::vector<Vec2>& points() { return points_; }

  private:
    static constexpr double cell = 4 * merge_mm;
    static uint64_t key(long x, long y) { return uint64_t(x) * 0x9e3779b97f4a7c15ull ^ uint64_t(y); }
    std::vector<Vec2> points_;
    std::unordered_multimap<uint64_t, uint32_t> cells_;
};

class Arranger {
  public:
    Arranger(const std::vector<SourcedCurve>& sources, double closes_below, const Task& task)
        : sources_(sources), closes_below_(closes_below), task_(task) {}

    Expected<Arrangement> run() {
        if (auto wrong = cut_into_pieces()) return pass_on(*wrong);
        if (auto wrong = find_meetings()) return pass_on(*wrong);
        close_gaps();
        make_graph();
        result_.regions = find_regions(graph_, sources_);
        std::sort(result_.regions.begin(), result_.regions.end(),
                  [](const FlatRegion& a, const FlatRegion& b) { return a.area_mm2 > b.area_mm2; });
        return std::move(result_);
    }

  private:
    std::optional<Problem> cut_into_pieces() {
        for (uint32_t i = 0; i < sources_.size(); ++i) {
            const Curve& c = sources_[i].curve;
            bool near = c.finite();
            if (near) {
                Box2 box = c.box();
                near = box.min().cwiseAbs().maxCoeff() <= tolerance::largest_mm &&
                       box.max().cwiseAbs().maxCoeff() <= tolerance::largest_mm;
            }
            if (!near)
                return Problem{ProblemCode::Range, "A curve of the outline is no longer finite or lies beyond 100 m.",
                               "Take the last number back, or give the curve a size."};
            std::vector<double> t;
            if (c.kind == Curve::Kind::Line)
                t = {0, 1};
            else if (c.kind == Curve::Kind::Arc) // halves, so that no edge ends where it starts
                t = c.closed() ? std::vector<double>{0, 0.5, 1} : std::vector<double>{0, 1};
            else
                t = c.stations(chord_mm);
            splits_.emplace_back();
            for (double u : t) splits_.back().push_back({u, nodes_.node(c.at(u))});
            bool round = c.kind == Curve::Kind::Arc;
            for (size_t k = 0; k + 1 < t.size(); ++k) {
                const Vec2 from = c.at(t[k]), to = c.at(t[k + 1]);
                if (!round && (to - from).squaredNorm() <= merge_mm * merge_mm)
                    continue; // one node; it has no direction
                pieces_.push_back({round ? c.part(t[k], t[k + 1]) : Curve::line(from, to), i, t[k], t[k + 1]});
            }
        }
        std::vector<Entry> entries;
        for (uint32_t i = 0; i < pieces_.size(); ++i)
            entries.emplace_back(boost_box(pieces_[i].curve.box(), merge_mm), i);
        tree_ = Tree(entries);
        return std::nullopt;
    }

    std::optional<Problem> find_meetings() {
        size_t count = 0;
        std::vector<Entry> near;
        for (uint32_t i = 0; i < pieces_.size(); ++i) {
            if (i % 256 == 0 && task_.stopped())
                return Problem{ProblemCode::Cancelled, "Stopped on request.", {}, {}, {}};
            near.clear();
            tree_.query(bg::index::intersects(boost_box(pieces_[i].curve.box(), merge_mm)), std::back_inserter(near));
            for (const Entry& entry : near) {
                uint32_t k = entry.second;
                if (k <= i) continue;
                for (const Meeting& m : meetings(pieces_[i].curve, pieces_[k].curve, merge_mm)) {
                    meet(pieces_[i], m.s, pieces_[k], m.t);
                    if (++count > most_meetings)
                        return Problem{ProblemCode::Range, "The curves cross each other more than 300,000 times.",
                                       "Bring in a simpler drawing."};
                }
            }
        }
        return std::nullopt;
    }

    void meet(const Piece& a, double s, const Piece& b, double t) {
        const Curve &ca = sources_[a.source].curve, &cb = sources_[b.source].curve;
        double u = a.t0 + s * (a.t1 - a.t0), v = b.t0 + t * (b.t1 - b.t0);
        bool chords = ca.kind > Curve::Kind::Arc || cb.kind > Curve::Kind::Arc;
        bool joint = a.source == b.source && std::fabs(u - v) < 1e-9;
        bool a_end = s < 1e-9 || s > 1 - 1e-9, b_end = t < 1e-9 || t > 1 - 1e-9;
        if (chords && !joint && !(a_end && b_end)) refine(ca, u, cb, v, a.curve.at(s));
        Vec2 p = ca.at(u);
        // An end keeps its place: it is where other curves end too.
        if (b_end && !a_end) p = cb.at(v);
        uint32_t node = nodes_.node(p);
        splits_[a.source].push_back({u, node});
        splits_[b.source].push_back({v, node});
        double ea = ca.end(), eb = cb.end();
        bool inner = u > 1e-9 && u < ea - 1e-9 && v > 1e-9 && v < eb - 1e-9 && !joint;
        if (inner && result_.crossings.size() < 10000) result_.crossings.push_back(p);
    }

    /// Newton on the true curves, from where their chords meet; kept only when it stays near.
    static void refine(const Curve& a, double& u, const Curve& b, double& v, const Vec2& start) {
        double x = u, y = v;
        for (int k = 0; k < 12; ++k) {
            Vec2 gap = b.at(y) - a.at(x);
            Eigen::Matrix2d m;
            m.col(0) = a.derivative(x);
            m.col(1) = -b.derivative(y);
            if (std::fabs(m.determinant()) < 1e-14) return;
            Vec2 step = m.inverse() * gap;
            x = std::clamp(x + step.x(), 0.0, a.end());
            y = std::clamp(y + step.y(), 0.0, b.end());
            if (step.norm() < 1e-14) break;
        }
        if ((a.at(x) - start).norm() > 5 * chord_mm || (a.at(x) - b.at(y)).norm() > merge_mm) return;
        u = x;
        v = y;
    }

    /// Loose ends: joined to what is nearer than `closes_below_`, otherwise remembered with the distance.
    void close_gaps() {
        std::vector<uint32_t> uses(nodes_.points().size(), 0);
        auto count_uses = [&] {
            std::fill(uses.begin(), uses.end(), 0);
            for (auto& splits : splits_) {
                std::sort(splits.begin(), splits.end());
                for (size_t k = 0; k + 1 < splits.size(); ++k)
                    if (splits[k].node != splits[k + 1].node) ++uses[splits[k].node], ++uses[splits[k + 1].node];
            }
        };
        count_uses();
        alias_.resize(nodes_.points().size());
        for (uint32_t i = 0; i < alias_.size(); ++i) alias_[i] = i;
        struct Loose {
            uint32_t source, node;
        };
        std::vector<Loose> loose;
        for (uint32_t i = 0; i < splits_.size(); ++i)
            for (uint32_t node : {splits_[i].front().node, splits_[i].back().node})
                if (uses[node] == 1) loose.push_back({i, node});
        for (const Loose& end : loose) {
            if (alias_[end.node] != end.node || taken_.count(end.node)) continue;
            Vec2 p = nodes_.points()[end.node];
            double best = 1e300;
            const Loose* partner = nullptr;
            for (const Loose& other : loose)
                if (other.node != end.node)
                    if (double d = (nodes_.points()[other.node] - p).norm(); d < best) best = d, partner = &other;
            // A curve passing by may be nearer than another loose end.
            double to_curve = 1e300, at = 0;
            uint32_t which = 0;
            std::vector<Entry> near;
            BoostPoint point(p.x(), p.y());
            tree_.query(bg::index::nearest(point, 12), std::back_inserter(near));
            for (const Entry& e : near) {
                const Piece& piece = pieces_[e.second];
                if (piece.source == end.source) continue;
                double s = piece.curve.nearest(p), d = (piece.curve.at(s) - p).norm();
                if (d < to_curve) to_curve = d, which = piece.source, at = piece.t0 + s * (piece.t1 - piece.t0);
            }
            if (partner && best <= closes_below_ && best <= to_curve + 1e-9) {
                alias_[end.node] = alias_[partner->node];
                taken_.insert(partner->node);
                result_.gaps.push_back({p, best, true});
            } else if (to_curve <= closes_below_) {
                uint32_t node = nodes_.node(sources_[which].curve.at(at));
                while (alias_.size() < nodes_.points().size()) alias_.push_back(uint32_t(alias_.size()));
                splits_[which].push_back({at, node});
                alias_[end.node] = node;
                result_.gaps.push_back({p, to_curve, true});
            } else if (double size = std::min(best, to_curve); size < 1e299) {
                result_.gaps.push_back({p, size, false});
            } else {
                result_.gaps.push_back({p, 0, false});
            }
        }
    }

    void make_graph() {
        graph_.nodes = nodes_.points();
        std::unordered_map<uint64_t, std::vector<uint32_t>> between;
        for (uint32_t i = 0; i < splits_.size(); ++i) {
            auto& splits = splits_[i];
            std::sort(splits.begin(), splits.end());
            const Curve& source = sources_[i].curve;
            size_t before = 0;
            for (size_t k = 1; k < splits.size(); ++k) {
                uint32_t a = alias_[splits[before].node], b = alias_[splits[k].node];
                if (a == b && (source.at(splits[before].t) - source.at(splits[k].t)).norm() < 1e-3 &&
                    splits[k].t - splits[before].t < 0.4 * source.end()) {
                    if (k + 1 < splits.size()) continue; // a repeat of the same meeting
                }
                if (a == b) {
                    before = k;
                    continue;
                }
                add_edge(i, splits[before].t, splits[k].t, a, b, between);
                before = k;
            }
        }
    }

    void add_edge(uint32_t source, double t0, double t1, uint32_t a, uint32_t b,
                  std::unordered_map<uint64_t, std::vector<uint32_t>>& between) {
        GraphEdge edge;
        edge.a = a;
        edge.b = b;
        edge.source = source;
        edge.t0 = t0;
        edge.t1 = t1;
        edge.curve = sources_[source].curve.part(t0, t1).fitted(graph_.nodes[a], graph_.nodes[b]);
        edge.middle = edge.curve.at(edge.curve.end() / 2);
        uint64_t key = (uint64_t(std::min(a, b)) << 32) | std::max(a, b);
        for (uint32_t other : between[key]) {
            GraphEdge& e = graph_.edges[other];
            // Same ends and same middle: one edge, drawn twice.
            double apart = (e.curve.at(e.curve.nearest(edge.middle)) - edge.middle).norm();
            if (apart > 2 * chord_mm ||
                (apart > 4 * merge_mm && e.curve.kind <= Curve::Kind::Arc && edge.curve.kind <= Curve::Kind::Arc))
                continue;
            e.again.push_back({source, e.a == a});
            return;
        }
        between[key].push_back(uint32_t(graph_.edges.size()));
        graph_.edges.push_back(std::move(edge));
    }

    const std::vector<SourcedCurve>& sources_;
    double closes_below_;
    const Task& task_;
    std::vector<Piece> pieces_;
    Tree tree_;
    NodeTable nodes_;
    std::vector<std::vector<Split>> splits_; ///< of each source
    std::vector<uint32_t> alias_;
    std::unordered_set<uint32_t> taken_; ///< nodes another loose end was joined to
    PlanarGraph graph_;
    Arrangement result_;
};

} // namespace

Expected<Arrangement> arrange(const std::vector<SourcedCurve>& curves, double closes_below, const Task& task) {
    return Arranger(curves, closes_below, task).run();
}

std::vector<Curve> curves_of(const BoundaryLoop& loop) {
    std::vector<Curve> result;
    for (const BoundaryCurve& c : loop) result.push_back(c.curve);
    return result;
}

} // namespace lp
