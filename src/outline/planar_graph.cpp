#include "outline/planar_graph.h"
#include "base/union_find.h"
#include <algorithm>
#include <cmath>
#include <deque>
#include <map>

namespace lp {
namespace {

/// Half edge 2 e runs along edge e, 2 e + 1 against it.
class FaceWalk {
  public:
    FaceWalk(const PlanarGraph& graph, const std::vector<SourcedCurve>& sources) : graph_(graph), sources_(sources) {
        alive_.assign(graph.edges.size(), true);
    }

    std::vector<FlatRegion> run() {
        // Edges with the same face on both sides bound nothing: taken away until none is left.
        while (true) {
            prune();
            sort_round_nodes();
            walk();
            if (!drop_bridges()) break;
        }
        return make_regions();
    }

  private:
    uint32_t from(uint32_t h) const { return h & 1 ? graph_.edges[h / 2].b : graph_.edges[h / 2].a; }
    uint32_t to(uint32_t h) const { return from(h ^ 1); }

    void prune() {
        std::vector<std::vector<uint32_t>> at(graph_.nodes.size());
        for (uint32_t e = 0; e < graph_.edges.size(); ++e)
            if (alive_[e]) at[graph_.edges[e].a].push_back(e), at[graph_.edges[e].b].push_back(e);
        std::vector<uint32_t> degree(at.size());
        std::deque<uint32_t> ends;
        for (uint32_t n = 0; n < at.size(); ++n)
            if ((degree[n] = uint32_t(at[n].size())) == 1) ends.push_back(n);
        while (!ends.empty()) {
            uint32_t n = ends.front();
            ends.pop_front();
            for (uint32_t e : at[n])
                if (alive_[e]) {
                    alive_[e] = false;
                    uint32_t other = graph_.edges[e].a == n ? graph_.edges[e].b : graph_.edges[e].a;
                    --degree[n];
                    if (--degree[other] == 1) ends.push_back(other);
                }
        }
    }

    void sort_round_nodes() {
        out_.assign(graph_.nodes.size(), {});
        for (uint32_t e = 0; e < graph_.edges.size(); ++e)
            if (alive_[e]) out_[graph_.edges[e].a].push_back(2 * e), out_[graph_.edges[e].b].push_back(2 * e + 1);
        place_.assign(2 * graph_.edges.size(), 0);
        for (uint32_t n = 0; n < out_.size(); ++n) {
            auto& round = out_[n];
            if (round.size() > 2) {
                // Ordered where a small circle about the node cuts them: that tells touching curves apart.
                double reach = 1e300;
                for (uint32_t h : round) reach = std::min(reach, 0.3 * graph_.edges[h / 2].curve.length());
                std::vector<std::pair<double, uint32_t>> by_angle;
                for (uint32_t h : round) {
                    Vec2 d = at_distance(h, reach) - graph_.nodes[n];
                    by_angle.emplace_back(std::atan2(d.y(), d.x()), h);
                }
                std::sort(by_angle.begin(), by_angle.end());
                for (size_t k = 0; k < round.size(); ++k) round[k] = by_angle[k].second;
            }
            for (uint32_t k = 0; k < round.size(); ++k) place_[round[k]] = k;
        }
    }

    /// Where a half edge leaves the circle of this radius about its first node.
    Vec2 at_distance(uint32_t h, double radius) const {
        const Curve& c = graph_.edges[h / 2].curve;
        Vec2 origin = graph_.nodes[from(h)];
        double low = 0, high = 0, end = c.end();
        auto at = [&](double t) { return c.at(h & 1 ? end - t : t); };
        if (c.kind == Curve::Kind::Line) return at(std::min(1.0, radius / std::max(c.length(), 1e-300)));
        for (int k = 1; k <= 16; ++k) {
            high = end * k / 16;
            if ((at(high) - origin).norm() >= radius) break;
            low = high;
        }
        for (int k = 0; k < 40; ++k) {
            double mid = (low + high) / 2;
            ((at(mid) - origin).norm() < radius ? low : high) = mid;
        }
        return at((low + high) / 2);
    }

    uint32_t next(uint32_t h) const {
        const auto& round = out_[to(h)];
        uint32_t place = place_[h ^ 1];
        return round[(place + round.size() - 1) % round.size()];
    }

    void walk() {
        loops_.clear();
        loop_of_.assign(2 * graph_.edges.size(), UINT32_MAX);
        for (uint32_t h = 0; h < loop_of_.size(); ++h) {
            if (!alive_[h / 2] || loop_of_[h] != UINT32_MAX) continue;
            std::vector<uint32_t> loop;
            for (uint32_t k = h; loop_of_[k] == UINT32_MAX; k = next(k)) {
                loop_of_[k] = uint32_t(loops_.size());
                loop.push_back(k);
            }
            loops_.push_back(std::move(loop));
        }
    }

    bool drop_bridges() {
        bool dropped = false;
        for (uint32_t e = 0; e < graph_.edges.size(); ++e)
            if (alive_[e] && loop_of_[2 * e] == loop_of_[2 * e + 1]) alive_[e] = false, dropped = true;
        return dropped;
    }

    double loop_area(const std::vector<uint32_t>& loop, const Vec2& origin) const {
        Eigen::Affine2d shift = Eigen::Affine2d::Identity();
        shift.translate(-origin);
        double sum = 0;
        for (uint32_t h : loop) {
            double share = graph_.edges[h / 2].curve.mapped(shift).area_share();
            sum += h & 1 ? -share : share;
        }
        return sum;
    }

    std::vector<Curve> loop_curves(const std::vector<uint32_t>& loop) const {
        std::vector<Curve> curves;
        for (uint32_t h : loop) {
            const Curve& c = graph_.edges[h / 2].curve;
            curves.push_back(h & 1 ? c.reversed() : c);
        }
        return curves;
    }

    /// Consecutive stretches of one source become one curve again.
    BoundaryLoop boundary(const std::vector<uint32_t>& loop) const {
        struct Run {
            uint32_t source;
            bool forward;
            double t0, t1; ///< in the order of the source
            uint32_t first, last;
            uint32_t edge; ///< the smallest edge of the run: the same from both sides
        };
        std::vector<Run> runs;
        auto joins = [&](const Run& a, const Run& b) {
            if (a.source != b.source || a.forward != b.forward || out_[to(a.last)].size() != 2) return false;
            double jump = a.forward ? b.t0 - a.t1 : a.t0 - b.t1;
            double period = sources_[a.source].curve.end();
            return std::fabs(jump) < 1e-6 ||
                   (sources_[a.source].curve.closed() && std::fabs(std::fabs(jump) - period) < 1e-6);
        };
        for (uint32_t h : loop) {
            const GraphEdge& e = graph_.edges[h / 2];
            Run run{e.source, !(h & 1), e.t0, e.t1, h, h, h / 2};
            if (!runs.empty() && joins(runs.back(), run)) {
                (run.forward ? runs.back().t1 : runs.back().t0) = run.forward ? run.t1 : run.t0;
                runs.back().last = h;
                runs.back().edge = std::min(runs.back().edge, h / 2);
            } else {
                runs.push_back(run);
            }
        }
        if (runs.size() > 1 && joins(runs.back(), runs.front())) {
            (runs.front().forward ? runs.front().t0 : runs.front().t1) =
                runs.front().forward ? runs.back().t0 : runs.back().t1;
            runs.front().first = runs.back().first;
            runs.front().edge = std::min(runs.front().edge, runs.back().edge);
            runs.pop_back();
        }
        BoundaryLoop result;
        for (const Run& run : runs) {
            const Curve& source = sources_[run.source].curve;
            BoundaryCurve b;
            b.key = sources_[run.source].key;
            b.group = sources_[run.source].group;
            b.forward = run.forward;
            b.edge = run.edge;
            if (run.t1 - run.t0 > 1e-9) {
                b.curve = source.part(run.t0, run.t1);
                if (!run.forward) b.curve = b.curve.reversed();
                b.curve = b.curve.fitted(graph_.nodes[from(run.first)], graph_.nodes[to(run.last)]);
            } else if (source.closed() && source.kind != Curve::Kind::Cubics) { // runs over the seam
                double span = run.t1 + 1 - run.t0;
                b.curve = source;
                b.curve.start = source.start + run.t0 * source.sweep;
                b.curve.sweep = span * source.sweep;
                if (!run.forward) b.curve = b.curve.reversed();
            } else { // a closed spline over its seam: in two stretches
                Curve one = source.part(run.t0, source.end()), two = source.part(0, run.t1);
                BoundaryCurve first = b, second = b;
                first.curve = run.forward ? one : two.reversed();
                second.curve = run.forward ? two : one.reversed();
                if (first.curve.length() > 1e-6) result.push_back(first);
                if (second.curve.length() > 1e-6) result.push_back(second);
                continue;
            }
            result.push_back(b);
        }
        return result;
    }

    struct Face {
        uint32_t outer;
        std::vector<uint32_t> holes;
        double area;
        std::vector<Curve> curves;
        Box2 box;
    };

    std::vector<FlatRegion> make_regions() {
        UnionFind components(graph_.nodes.size());
        for (uint32_t e = 0; e < graph_.edges.size(); ++e)
            if (alive_[e]) components.join(graph_.edges[e].a, graph_.edges[e].b);
        std::vector<uint32_t> hole_loops;
        faces_.clear();
        face_of_loop_.assign(loops_.size(), UINT32_MAX);
        for (uint32_t l = 0; l < loops_.size(); ++l) {
            double area = loop_area(loops_[l], graph_.nodes[from(loops_[l][0])]);
            if (area > 0) {
                Face face{l, {}, area, loop_curves(loops_[l]), {}};
                for (const Curve& c : face.curves) face.box.extend(c.box());
                face_of_loop_[l] = uint32_t(faces_.size());
                faces_.push_back(std::move(face));
            } else {
                hole_loops.push_back(l);
            }
        }
        std::vector<uint32_t> by_area(faces_.size());
        for (uint32_t i = 0; i < by_area.size(); ++i) by_area[i] = i;
        std::sort(by_area.begin(), by_area.end(),
                  [&](uint32_t a, uint32_t b) { return faces_[a].area < faces_[b].area; });
        std::map<uint32_t, uint32_t> parent_face; // of a component: the face round it
        for (uint32_t l : hole_loops) {
            uint32_t h = loops_[l][0];
            Vec2 p = graph_.edges[h / 2].middle;
            uint32_t component = components.find(from(h));
            for (uint32_t f : by_area) {
                if (!faces_[f].box.contains(p) || components.find(from(loops_[faces_[f].outer][0])) == component)
                    continue;
                if (!inside_loop(faces_[f].curves, p)) continue;
                faces_[f].holes.push_back(l);
                face_of_loop_[l] = f;
                parent_face[component] = f;
                break;
            }
        }
        auto winding = winding_numbers();
        std::vector<FlatRegion> regions;
        for (uint32_t f = 0; f < faces_.size(); ++f) {
            FlatRegion r;
            r.outer = boundary(loops_[faces_[f].outer]);
            r.area_mm2 = faces_[f].area;
            for (uint32_t l : faces_[f].holes) {
                r.holes.push_back(boundary(loops_[l]));
                r.area_mm2 += loop_area(loops_[l], graph_.nodes[from(loops_[l][0])]);
            }
            uint32_t component = components.find(from(loops_[faces_[f].outer][0]));
            for (auto it = parent_face.find(component); it != parent_face.end();) {
                ++r.depth;
                component = components.find(from(loops_[faces_[it->second].outer][0]));
                it = parent_face.find(component);
            }
            for (auto& [contour, number] : winding[f])
                if (number) r.winding.emplace_back(contour, number);
            r.inside = point_inside(faces_[f]);
            // Slivers between curves that touch within rounding are no regions.
            if (r.area_mm2 > 1e-7) regions.push_back(std::move(r));
        }
        return regions;
    }

    using Winding = std::map<int, int>;

    /// Winding numbers by spreading from the outside: crossing an edge to its left adds one for each source along it.
    std::vector<Winding> winding_numbers() const {
        std::vector<Winding> result(faces_.size());
        bool any = std::any_of(sources_.begin(), sources_.end(), [](const SourcedCurve& s) { return s.contour >= 0; });
        if (!any) return result;
        std::vector<std::vector<uint32_t>> borders(faces_.size() + 1);
        uint32_t outside = uint32_t(faces_.size());
        auto face_left = [&](uint32_t h) {
            uint32_t f = face_of_loop_[loop_of_[h]];
            return f == UINT32_MAX ? outside : f;
        };
        for (uint32_t e = 0; e < graph_.edges.size(); ++e)
            if (alive_[e])
                for (uint32_t h : {2 * e, 2 * e + 1}) borders[face_left(h)].push_back(h);
        std::vector<bool> known(faces_.size() + 1, false);
        std::deque<uint32_t> wave{outside};
        known[outside] = true;
        while (!wave.empty()) {
            uint32_t f = wave.front();
            wave.pop_front();
            for (uint32_t h : borders[f]) {
                uint32_t other = face_left(h ^ 1);
                if (known[other]) continue;
                known[other] = true;
                // Stepping over h from its left to its right: the right side loses what runs along h.
                Winding next = f == outside ? Winding{} : result[f];
                const GraphEdge& e = graph_.edges[h / 2];
                auto step = [&](uint32_t source, bool along_edge) {
                    if (sources_[source].contour < 0) return;
                    bool along_h = along_edge == !(h & 1);
                    next[sources_[source].contour] += along_h ? -1 : 1;
                };
                step(e.source, true);
                for (const GraphEdge::Again& again : e.again) step(again.source, again.same_way);
                if (other != outside) result[other] = std::move(next);
                wave.push_back(other);
            }
        }
        return result;
    }

    /// The middle of the widest stretch inside, over a few heights.
    Vec2 point_inside(const Face& face) const {
        std::vector<Curve> all = face.curves;
        for (uint32_t l : face.holes)
            for (Curve& c : loop_curves(loops_[l])) all.push_back(std::move(c));
        Vec2 best = face.box.center();
        double widest = -1;
        for (double share : {0.5, 0.381, 0.618, 0.23, 0.77, 0.1, 0.9, 0.03, 0.97}) {
            double y = face.box.min().y() + share * (face.box.max().y() - face.box.min().y());
            std::vector<double> xs;
            for (const Curve& c : all) {
                std::vector<double> t = c.stations(1e-3);
                for (size_t i = 0; i + 1 < t.size(); ++i) {
                    Vec2 a = c.at(t[i]), b = c.at(t[i + 1]);
                    if ((a.y() <= y) != (b.y() <= y))
                        xs.push_back(a.x() + (y - a.y()) / (b.y() - a.y()) * (b.x() - a.x()));
                }
            }
            std::sort(xs.begin(), xs.end());
            for (size_t i = 0; i + 1 < xs.size(); i += 2)
                if (double w = xs[i + 1] - xs[i]; w > widest * 1.2) widest = w, best = {(xs[i] + xs[i + 1]) / 2, y};
        }
        return best;
    }

    const PlanarGraph& graph_;
    const std::vector<SourcedCurve>& sources_;
    std::vector<bool> alive_;
    std::vector<std::vector<uint32_t>> out_, loops_;
    std::vector<uint32_t> place_, loop_of_, face_of_loop_;
    std::vector<Face> faces_;
};

} // namespace

std::vector<FlatRegion> find_regions(const PlanarGraph& graph, const std::vector<SourcedCurve>& sources) {
    return FaceWalk(graph, sources).run();
}

} // namespace lp
