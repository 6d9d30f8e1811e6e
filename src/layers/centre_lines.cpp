// One of the few places that see CGAL.
#include "layers/centre_lines.h"
#include "layers/region_tools.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>

namespace lp {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
struct FaceNote {
    int depth = -1; ///< borders crossed from outside; odd is inside
    int id = -1;
};
using FaceBase =
    CGAL::Constrained_triangulation_face_base_2<Kernel, CGAL::Triangulation_face_base_with_info_2<FaceNote, Kernel>>;
using Structure = CGAL::Triangulation_data_structure_2<CGAL::Triangulation_vertex_base_2<Kernel>, FaceBase>;
using Triangulation = CGAL::Constrained_Delaunay_triangulation_2<Kernel, Structure, CGAL::Exact_predicates_tag>;

void count_depths(Triangulation& triangulation) {
    std::vector<Triangulation::Face_handle> here{triangulation.infinite_face()}, deeper;
    for (int depth = 0; !here.empty(); ++depth, here.swap(deeper), deeper.clear())
        while (!here.empty()) {
            auto face = here.back();
            here.pop_back();
            if (face->info().depth != -1) continue;
            face->info().depth = depth;
            for (int i = 0; i < 3; ++i)
                if (face->neighbor(i)->info().depth == -1)
                    (triangulation.is_constrained({face, i}) ? deeper : here).push_back(face->neighbor(i));
        }
}

struct Strip { ///< a triangle inside
    Vec2 corner[3];
    int next[3]; ///< across the edge opposite each corner; -1 at the outline or a closed branch
    double area = 0;
    int open() const { return (next[0] >= 0) + (next[1] >= 0) + (next[2] >= 0); }
    Vec2 middle(int i) const { return (corner[(i + 1) % 3] + corner[(i + 2) % 3]) / 2; }
    double side(int i) const { return (corner[(i + 1) % 3] - corner[(i + 2) % 3]).norm(); }
    Vec2 centre() const { return (corner[0] + corner[1] + corner[2]) / 3; }
};

std::vector<Strip> strips_of(const Region& thin, double step_mm) {
    Triangulation triangulation;
    for (const ClipperLib::Path& loop : thin) {
        std::vector<Kernel::Point_2> places;
        for (size_t i = 0; i < loop.size(); ++i) {
            const Vec2 p = place_of(loop[i]), q = place_of(loop[(i + 1) % loop.size()]);
            const int n = std::max(1, int(std::ceil((q - p).norm() / step_mm)));
            for (int k = 0; k < n; ++k) {
                const Vec2 r = p + (q - p) * (double(k) / n);
                places.emplace_back(r.x(), r.y());
            }
        }
        triangulation.insert_constraint(places.begin(), places.end(), true);
    }
    if (triangulation.dimension() < 2) return {};
    count_depths(triangulation);
    std::vector<Triangulation::Face_handle> faces;
    for (auto face : triangulation.finite_face_handles())
        if (face->info().depth % 2 == 1) {
            face->info().id = int(faces.size());
            faces.push_back(face);
        }
    std::vector<Strip> strips(faces.size());
    for (size_t n = 0; n < faces.size(); ++n) {
        Strip& strip = strips[n];
        for (int i = 0; i < 3; ++i) {
            const auto& p = faces[n]->vertex(i)->point();
            strip.corner[i] = {p.x(), p.y()};
            strip.next[i] = triangulation.is_constrained({faces[n], i}) ? -1 : faces[n]->neighbor(i)->info().id;
        }
        const Vec2 u = strip.corner[1] - strip.corner[0], v = strip.corner[2] - strip.corner[0];
        strip.area = std::fabs(u.x() * v.y() - u.y() * v.x()) / 2;
    }
    return strips;
}

class Middles {
  public:
    Middles(std::vector<Strip> strips, double step_mm)
        : strips_(std::move(strips)), step_(step_mm), used_(strips_.size(), 0) {}

    std::vector<CentreLine> run() {
        while (close_branches()) {
        }
        for (int n = 0; n < count(); ++n)
            if (!used_[size_t(n)] && strips_[size_t(n)].area > 0 && strips_[size_t(n)].open() == 1) walk(n, -1);
        from_forks();
        for (int n = 0; n < count(); ++n)
            if (!used_[size_t(n)] && strips_[size_t(n)].area > 0) ring_or_single(n);
        for (CentreLine& line : lines_) draw_back(line);
        return std::move(lines_);
    }

  private:
    struct Step {
        Vec2 a, b;
        double area;
        double length() const { return (b - a).norm(); }
    };
    int count() const { return int(strips_.size()); }
    Strip& at(int n) { return strips_[size_t(n)]; }
    /// The edge of `to` that leads to `from`.
    int door(int from, int to) {
        for (int i = 0; i < 3; ++i)
            if (at(to).next[i] == from) return i;
        return -1;
    }
    /// From an end to the fork it leads to: nothing where it leads to another end or is long enough to keep.
    bool close_branches() {
        bool closed = false;
        for (int n = 0; n < count(); ++n)
            if (at(n).open() == 1) closed |= close_branch(n);
        return closed;
    }
    bool close_branch(int n) {
        int here = n, came = -1;
        double length = 0, area = 0;
        while (at(here).open() <= 2) {
            int out = -1;
            for (int i = 0; i < 3; ++i)
                if (at(here).next[i] >= 0 && at(here).next[i] != came) out = i;
            if (out < 0) return false;
            area += at(here).area;
            length += std::sqrt(at(here).area);
            came = here;
            here = at(here).next[out];
        }
        const int into = door(came, here);
        if (into < 0 || length > 1.5 * at(here).side(into)) return false;
        at(here).next[into] = -1;
        at(here).area += area;
        for (int x = n; x != here;) { // its triangles are spent
            int next = -1;
            for (int i = 0; i < 3; ++i)
                if (at(x).next[i] >= 0) {
                    next = at(x).next[i];
                    at(x).next[i] = -1;
                }
            if (next >= 0 && next != here)
                if (int back = door(x, next); back >= 0) at(next).next[back] = -1;
            at(x).area = -1;
            x = next < 0 ? here : next;
        }
        return true;
    }
    /// From triangle n, entered through its edge `in` (-1: an end), until the line ends.
    void walk(int n, int in) {
        while (!used_[size_t(n)] && at(n).open() != 3) {
            Strip& strip = at(n);
            used_[size_t(n)] = 1;
            int out = -1;
            for (int i = 0; i < 3; ++i)
                if (strip.next[i] >= 0 && i != in) out = i;
            if (in < 0) {
                chain_.push_back({strip.corner[out], strip.middle(out), strip.area});
            } else if (out < 0) {
                chain_.push_back({strip.middle(in), strip.corner[in], strip.area});
                break;
            } else {
                chain_.push_back({strip.middle(in), strip.middle(out), strip.area});
            }
            const int to = strip.next[out];
            if (at(to).open() == 3) { // into the fork's middle, with a third of its area
                chain_.push_back({strip.middle(out), at(to).centre(), at(to).area / 3});
                break;
            }
            in = door(n, to);
            n = to;
        }
        finish();
    }
    void from_forks() {
        for (int n = 0; n < count(); ++n) {
            if (at(n).area <= 0 || at(n).open() != 3) continue;
            for (int i = 0; i < 3; ++i) {
                const int to = at(n).next[i];
                if (used_[size_t(to)] || at(to).open() == 3) continue;
                chain_.push_back({at(n).centre(), at(n).middle(i), at(n).area / 3});
                walk(to, door(n, to));
            }
        }
    }
    void ring_or_single(int n) {
        Strip& strip = at(n);
        if (strip.open() == 2) {
            int in = 0;
            while (strip.next[in] < 0) ++in;
            const size_t before = lines_.size();
            walk(n, in);
            if (lines_.size() == before + 1) lines_.back().closed = true;
        } else if (strip.open() == 0) { // along its longest side
            int k = 0;
            for (int i = 1; i < 3; ++i)
                if (strip.side(i) > strip.side(k)) k = i;
            const Vec2 a = (strip.corner[(k + 1) % 3] + strip.corner[k]) / 2,
                       b = (strip.corner[(k + 2) % 3] + strip.corner[k]) / 2;
            lines_.push_back({{a, b}, strip.area / std::max(1e-6, (b - a).norm()), false});
        }
    }
    /// Parts the chain where its width, smoothed over five steps, changes.
    void finish() {
        constexpr double even = 0.15;
        CentreLine line;
        double area = 0, length = 0;
        auto end_line = [&] {
            if (length <= 0) return;
            line.width_mm = area / length;
            lines_.push_back(line);
        };
        for (size_t i = 0; i < chain_.size(); ++i) {
            double near_area = 0, near_length = 0;
            for (size_t j = i < 2 ? 0 : i - 2; j < std::min(chain_.size(), i + 3); ++j) {
                near_area += chain_[j].area;
                near_length += chain_[j].length();
            }
            const double local = near_length > 0 ? near_area / near_length : 0,
                         mean = length > 0 ? area / length : local;
            if (line.places.empty()) {
                line.places.push_back(chain_[i].a);
            } else if (length > step_ && std::fabs(local - mean) > even * mean) {
                end_line();
                line = {};
                line.places.push_back(chain_[i].a);
                area = length = 0;
            }
            line.places.push_back(chain_[i].b);
            area += chain_[i].area;
            length += chain_[i].length();
        }
        end_line();
        chain_.clear();
    }
    /// A round end reaches half a width farther: free ends are drawn back, the volume is kept.
    static void draw_back(CentreLine& line) {
        if (line.closed || line.places.size() < 2) return;
        double total = 0;
        for (size_t i = 1; i < line.places.size(); ++i) total += (line.places[i] - line.places[i - 1]).norm();
        const double cut = std::min(line.width_mm / 2, total * 0.4) * 0.5;
        for (int end = 0; end < 2; ++end) {
            double left = cut;
            while (line.places.size() > 2 && (line.places[1] - line.places[0]).norm() <= left) {
                left -= (line.places[1] - line.places[0]).norm();
                line.places.erase(line.places.begin());
            }
            const Vec2 d = line.places[1] - line.places[0];
            if (d.norm() > left) line.places[0] += d.normalized() * left;
            std::reverse(line.places.begin(), line.places.end());
        }
        line.width_mm *= total / std::max(1e-6, total - 2 * cut);
    }

    std::vector<Strip> strips_;
    double step_;
    std::vector<char> used_;
    std::vector<Step> chain_;
    std::vector<CentreLine> lines_;
};

} // namespace

std::vector<CentreLine> centre_lines(const Region& thin, double step_mm) {
    return Middles(strips_of(thin, step_mm), step_mm).run();
}

} // namespace lp
