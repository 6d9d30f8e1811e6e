#include "mesh/plane_cluster.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <algorithm>
#include <cmath>

namespace lp::arrangement {
namespace {

/// What the triangulation's predicates work on: set by the thread before it triangulates a cluster.
thread_local const ExactPoints* flat_points = nullptr;
thread_local int flat_u = 0, flat_v = 1;

/// A point of the plane that knows its number: predicates go by the number, exactly.
struct FlatPoint {
    double X = 0, Y = 0;
    int id = -1;
    FlatPoint() = default;
    FlatPoint(double x, double y, int i) : X(x), Y(y), id(i) {}
    double x() const { return X; }
    double y() const { return Y; }
    bool operator==(const FlatPoint& other) const { return id == other.id; }
    bool operator!=(const FlatPoint& other) const { return id != other.id; }
};

struct FlatTraits : public CGAL::Exact_predicates_inexact_constructions_kernel {
    using Point_2 = FlatPoint;
    struct Compare_x_2 {
        using result_type = CGAL::Comparison_result;
        result_type operator()(const FlatPoint& a, const FlatPoint& b) const {
            return result_type(flat_points->compare(a.id, b.id, flat_u));
        }
    };
    struct Compare_y_2 {
        using result_type = CGAL::Comparison_result;
        result_type operator()(const FlatPoint& a, const FlatPoint& b) const {
            return result_type(flat_points->compare(a.id, b.id, flat_v));
        }
    };
    struct Less_x_2 {
        bool operator()(const FlatPoint& a, const FlatPoint& b) const {
            return flat_points->compare(a.id, b.id, flat_u) < 0;
        }
    };
    struct Less_y_2 {
        bool operator()(const FlatPoint& a, const FlatPoint& b) const {
            return flat_points->compare(a.id, b.id, flat_v) < 0;
        }
    };
    struct Orientation_2 {
        using result_type = CGAL::Orientation;
        result_type operator()(const FlatPoint& a, const FlatPoint& b, const FlatPoint& c) const {
            return result_type(flat_points->turn(a.id, b.id, c.id, flat_u, flat_v));
        }
    };
    struct Side_of_oriented_circle_2 { // only shapes the triangles: "no" when unsure
        using result_type = CGAL::Oriented_side;
        result_type operator()(const FlatPoint& a, const FlatPoint& b, const FlatPoint& c, const FlatPoint& d) const {
            double ax = a.X - d.X, ay = a.Y - d.Y, bx = b.X - d.X, by = b.Y - d.Y, cx = c.X - d.X, cy = c.Y - d.Y;
            double A = ax * ax + ay * ay, B = bx * bx + by * by, C = cx * cx + cy * cy;
            double det = A * (bx * cy - by * cx) - B * (ax * cy - ay * cx) + C * (ax * by - ay * bx);
            double most = std::max({A, B, C}), slack = 1e-12 * most * most + 1e-6 * most * std::sqrt(most);
            return det > slack ? CGAL::ON_POSITIVE_SIDE : CGAL::ON_NEGATIVE_SIDE;
        }
    };
    struct Collinear_are_ordered_along_line_2 {
        bool operator()(const FlatPoint& a, const FlatPoint& b, const FlatPoint& c) const {
            int axis = flat_u, way = flat_points->compare(a.id, c.id, axis);
            if (way == 0) {
                axis = flat_v;
                way = flat_points->compare(a.id, c.id, axis);
            }
            return flat_points->compare(a.id, b.id, axis) * way >= 0 &&
                   flat_points->compare(b.id, c.id, axis) * way >= 0;
        }
    };
    struct Construct_point_2 {
        const FlatPoint& operator()(const FlatPoint& p) const { return p; }
    };
    Compare_x_2 compare_x_2_object() const { return {}; }
    Compare_y_2 compare_y_2_object() const { return {}; }
    Less_x_2 less_x_2_object() const { return {}; }
    Less_y_2 less_y_2_object() const { return {}; }
    Orientation_2 orientation_2_object() const { return {}; }
    Side_of_oriented_circle_2 side_of_oriented_circle_2_object() const { return {}; }
    Collinear_are_ordered_along_line_2 collinear_are_ordered_along_line_2_object() const { return {}; }
    Construct_point_2 construct_point_2_object() const { return {}; }
};
using Triangulation =
    CGAL::Constrained_Delaunay_triangulation_2<FlatTraits, CGAL::Default, CGAL::No_constraint_intersection_tag>;

template <class List> void tidy(List& list) {
    std::sort(list.begin(), list.end());
    list.erase(std::unique(list.begin(), list.end()), list.end());
}

void in_order(std::vector<Segment>& segments) {
    for (auto& [a, b] : segments)
        if (a > b) std::swap(a, b);
    tidy(segments);
}

/// A box round a segment or a place, for the sweep.
struct SweepBox {
    double low, high, v_low, v_high;
    int item; ///< a segment, or -1 - a place
};

} // namespace

/// The two axes that a plane is seen along, so that its normal looks at the viewer.
void flat_axes(const Normal& n, int& u, int& v) {
    int a = 0;
    for (int k = 1; k < 3; ++k)
        if (std::llabs(n[size_t(k)]) > std::llabs(n[size_t(a)])) a = k;
    u = (a + 1) % 3;
    v = (a + 2) % 3;
    if (n[size_t(a)] < 0) std::swap(u, v);
}

PlaneCluster::PlaneCluster(ExactPoints& points, const std::vector<Corners>& facets, const std::vector<Normal>& normals,
                           const std::vector<int>& cluster)
    : points_(points), facets_(facets), cluster_(cluster), normal_(normals[size_t(cluster[0])]) {
    flat_axes(normal_, u_, v_);
}

void PlaneCluster::cut(std::vector<Segment> segments, std::vector<int> places, Cut& out) {
    segments_ = std::move(segments);
    places_ = std::move(places);
    for (int t : cluster_)
        for (size_t i = 0; i < 3; ++i) segments_.push_back({facets_[size_t(t)][i], facets_[size_t(t)][(i + 1) % 3]});
    in_order(segments_);
    for (auto [a, b] : segments_) places_.push_back(a), places_.push_back(b);
    tidy(places_);
    on_.assign(segments_.size(), {});
    sweep();
    std::vector<Segment> parts = parted();
    places_.insert(places_.end(), fresh_.begin(), fresh_.end());
    tidy(places_);
    triangulate(parts, out);
}

/// Finds what lies on what and what crosses.
void PlaneCluster::sweep() {
    constexpr double slack = 1e-6;
    std::vector<SweepBox> boxes;
    for (size_t i = 0; i < segments_.size(); ++i) {
        const double *p = points_.rounded(segments_[i].first), *q = points_.rounded(segments_[i].second);
        boxes.push_back({std::min(p[u_], q[u_]) - slack, std::max(p[u_], q[u_]) + slack, std::min(p[v_], q[v_]) - slack,
                         std::max(p[v_], q[v_]) + slack, int(i)});
    }
    for (size_t j = 0; j < places_.size(); ++j) {
        const double* p = points_.rounded(places_[j]);
        boxes.push_back({p[u_] - slack, p[u_] + slack, p[v_] - slack, p[v_] + slack, -1 - int(j)});
    }
    std::sort(boxes.begin(), boxes.end(), [](const SweepBox& a, const SweepBox& b) { return a.low < b.low; });
    std::vector<size_t> active;
    for (size_t k = 0; k < boxes.size(); ++k) {
        const SweepBox& box = boxes[k];
        size_t kept = 0;
        for (size_t z = 0; z < active.size(); ++z) {
            const SweepBox& other = boxes[active[z]];
            if (other.high < box.low) continue;
            active[kept++] = active[z];
            if (other.v_low > box.v_high || box.v_low > other.v_high) continue;
            if (box.item >= 0 && other.item >= 0)
                cross(box.item, other.item);
            else if (box.item >= 0)
                point_on(-1 - other.item, box.item);
            else if (other.item >= 0)
                point_on(-1 - box.item, other.item);
        }
        active.resize(kept);
        active.push_back(k);
    }
}

/// An axis along which the ends of a segment differ, and which way it runs there.
std::pair<int, int> PlaneCluster::way_of(const Segment& segment) const {
    int way = points_.compare(segment.first, segment.second, u_);
    return way ? std::pair(u_, way) : std::pair(v_, points_.compare(segment.first, segment.second, v_));
}

void PlaneCluster::point_on(int place, int segment) {
    int p = places_[size_t(place)];
    auto [a, b] = segments_[size_t(segment)];
    if (p == a || p == b || points_.turn(a, b, p, u_, v_) != 0) return;
    auto [axis, way] = way_of(segments_[size_t(segment)]);
    if (points_.compare(a, p, axis) * way > 0 && points_.compare(p, b, axis) * way > 0)
        on_[size_t(segment)].push_back(p);
}

void PlaneCluster::cross(int i, int j) {
    auto [a, b] = segments_[size_t(i)];
    auto [c, d] = segments_[size_t(j)];
    if (a == c || a == d || b == c || b == d) return;
    if (points_.turn(a, b, c, u_, v_) * points_.turn(a, b, d, u_, v_) >= 0) return;
    if (points_.turn(c, d, a, u_, v_) * points_.turn(c, d, b, u_, v_) >= 0) return;
    int x = crossing(a, b, c, d);
    on_[size_t(i)].push_back(x);
    on_[size_t(j)].push_back(x);
    fresh_.push_back(x);
}

/// Where the segments a-b and c-d cross.
int PlaneCluster::crossing(int a, int b, int c, int d) {
    mpz_class p[4][3], l1[3], l2[3], x[3];
    int ids[4] = {a, b, c, d};
    for (int q = 0; q < 4; ++q) {
        points_.homogeneous(ids[q], u_, p[q][0]);
        points_.homogeneous(ids[q], v_, p[q][1]);
        points_.homogeneous(ids[q], 3, p[q][2]);
    }
    auto cross = [](const mpz_class* s, const mpz_class* t, mpz_class* r) {
        r[0] = s[1] * t[2] - s[2] * t[1];
        r[1] = s[2] * t[0] - s[0] * t[2];
        r[2] = s[0] * t[1] - s[1] * t[0];
    };
    cross(p[0], p[1], l1);
    cross(p[2], p[3], l2);
    cross(l1, l2, x);
    int w = 3 - u_ - v_;
    const GridPoint& o = points_.grid(facets_[size_t(cluster_[0])][0]);
    const Normal& n = normal_;
    Wide dot = 0;
    for (size_t k = 0; k < 3; ++k) dot += Wide(n[k]) * int64_t(o[k]);
    mpz_class plane, h[4], nw = static_cast<long>(n[size_t(w)]);
    set_wide(plane, dot);
    h[w] = plane * x[2] - mpz_class(static_cast<long>(n[size_t(u_)])) * x[0] -
           mpz_class(static_cast<long>(n[size_t(v_)])) * x[1];
    h[u_] = x[0] * nw;
    h[v_] = x[1] * nw;
    h[3] = x[2] * nw;
    return points_.add_meeting(h);
}

/// The segments between all places that lie on them.
std::vector<Segment> PlaneCluster::parted() {
    std::vector<Segment> parts;
    for (size_t i = 0; i < segments_.size(); ++i) {
        auto [a, b] = segments_[i];
        auto [axis, way] = way_of(segments_[i]);
        auto& between = on_[i];
        std::sort(between.begin(), between.end(),
                  [&, axis = axis, way = way](int x, int y) { return points_.compare(x, y, axis) * way > 0; });
        between.erase(std::unique(between.begin(), between.end()), between.end());
        int before = a;
        for (int x : between)
            if (x != before) parts.push_back({before, x}), before = x;
        if (before != b) parts.push_back({before, b});
    }
    in_order(parts);
    return parts;
}

void PlaneCluster::triangulate(const std::vector<Segment>& parts, Cut& out) {
    flat_points = &points_;
    flat_u = u_;
    flat_v = v_;
    Triangulation triangulation;
    std::vector<Triangulation::Vertex_handle> handles(places_.size());
    Triangulation::Face_handle near;
    for (size_t i = 0; i < places_.size(); ++i) {
        const double* p = points_.rounded(places_[i]);
        handles[i] = triangulation.insert(FlatPoint(p[u_], p[v_], places_[i]), near);
        near = handles[i]->face();
    }
    auto handle = [&](int p) {
        return handles[size_t(std::lower_bound(places_.begin(), places_.end(), p) - places_.begin())];
    };
    for (auto [a, b] : parts) triangulation.insert_constraint(handle(a), handle(b));
    const bool alone = cluster_.size() == 1;
    for (auto f = triangulation.finite_faces_begin(); f != triangulation.finite_faces_end(); ++f) {
        Piece piece{{f->vertex(0)->point().id, f->vertex(1)->point().id, f->vertex(2)->point().id}, cluster_[0]};
        if (!alone && !add_sources(piece, out)) continue; // beside all of them
        out.pieces.push_back(piece);
    }
}

/// The facets that hold a piece; false when none does.
bool PlaneCluster::add_sources(Piece& piece, Cut& out) const {
    piece.first_source = int(out.sources.size());
    for (int t : cluster_) {
        const Corners& c = facets_[size_t(t)];
        int way = points_.turn(c[0], c[1], c[2], u_, v_);
        bool inside = true;
        for (size_t i = 0; i < 3 && inside; ++i)
            for (int p : piece.corners) inside = inside && points_.turn(c[i], c[(i + 1) % 3], p, u_, v_) * way >= 0;
        if (inside) out.sources.push_back({t, way});
    }
    piece.last_source = int(out.sources.size());
    return piece.first_source != piece.last_source;
}

} // namespace lp::arrangement
