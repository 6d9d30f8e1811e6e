#include "mesh/arrange_meshes.h"
#include "base/union_find.h"
#include "mesh/facet_arrangement.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace lp {
namespace {

using namespace arrangement;

/// A piece at an edge: corner number in its piece, and which way the edge runs in it.
struct Half {
    int other, corner; ///< the edge's other point; 3 * piece + corner
};
/// A piece round an edge, seen along it: 1 when the edge runs forward in it.
struct Around {
    int piece, way;
};

class SpaceCells {
  public:
    SpaceCells(FacetArrangement& cut, Operation operation, size_t operands)
        : cut_(cut), operation_(operation), operands_(operands) {}

    std::optional<TriMesh> run(const std::vector<TriMesh>& operands, double scale) {
        gather_halves();
        if (!join_sides()) return std::nullopt;
        number_cells();
        wind_all();
        return extract(operands, scale);
    }

  private:
    const Piece& piece(int p) const { return cut_.pieces[size_t(p)]; }
    size_t front(int p) const { return 2 * size_t(p); }
    size_t back(int p) const { return 2 * size_t(p) + 1; }

    void gather_halves() {
        size_t count = cut_.points.count();
        start_.assign(count + 1, 0);
        auto each = [&](auto call) {
            for (size_t p = 0; p < cut_.pieces.size(); ++p)
                for (size_t i = 0; i < 3; ++i) {
                    int a = piece(int(p)).corners[i], b = piece(int(p)).corners[(i + 1) % 3];
                    call(std::min(a, b), std::max(a, b), int(3 * p + i));
                }
        };
        each([&](int a, int, int) { ++start_[size_t(a) + 1]; });
        for (size_t i = 0; i < count; ++i) start_[i + 1] += start_[i];
        halves_.resize(3 * cut_.pieces.size());
        std::vector<size_t> next(start_.begin(), start_.end() - 1);
        each([&](int a, int b, int corner) { halves_[next[size_t(a)]++] = {b, corner}; });
        for (size_t v = 0; v < count; ++v)
            std::sort(halves_.begin() + long(start_[v]), halves_.begin() + long(start_[v + 1]),
                      [](const Half& a, const Half& b) {
                          return a.other != b.other ? a.other < b.other : a.corner < b.corner;
                      });
    }

    /// Calls back with every edge: its lower point and the range of its halves.
    template <class Call> void each_edge(Call call) {
        for (size_t v = 0; v + 1 < start_.size(); ++v)
            for (size_t i = start_[v]; i < start_[v + 1];) {
                size_t j = i;
                while (j < start_[v + 1] && halves_[j].other == halves_[i].other) ++j;
                call(int(v), i, j);
                i = j;
            }
    }

    int way_of(const Half& h, int low) const {
        return piece(h.corner / 3).corners[size_t(h.corner % 3)] == low ? 1 : -1;
    }

    /// Pieces round an edge, sorted by their exact normals; false when two lie on each other (they never should).
    bool sort_around(int low, size_t first, size_t last, std::vector<Around>& out) const {
        size_t n = last - first;
        std::vector<Normal> normal(n);
        std::vector<int> way(n), quarter(n, 0);
        std::vector<size_t> order(n);
        for (size_t i = 0; i < n; ++i) {
            const Half& h = halves_[first + i];
            way[i] = way_of(h, low);
            for (size_t k = 0; k < 3; ++k) normal[i][k] = way[i] * cut_.normals[size_t(piece(h.corner / 3).facet)][k];
            order[i] = i;
        }
        int high = halves_[first].other, axis = 0, edge_way = 0;
        const double *p = cut_.points.rounded(low), *q = cut_.points.rounded(high);
        for (int k = 1; k < 3; ++k)
            if (std::fabs(q[k] - p[k]) > std::fabs(q[axis] - p[axis])) axis = k;
        if (q[axis] != p[axis]) edge_way = q[axis] > p[axis] ? 1 : -1;
        for (int k = 0; k < 3 && !edge_way; ++k) {
            edge_way = cut_.points.compare(high, low, k);
            axis = k;
        }
        auto turn = [&](size_t i, size_t j) {
            size_t a = size_t(axis + 1) % 3, b = size_t(axis + 2) % 3;
            return edge_way * sign_of(Wide(normal[i][a]) * normal[j][b] - Wide(normal[i][b]) * normal[j][a]);
        };
        bool sound = true;
        for (size_t i = 1; i < n; ++i) {
            int t = turn(0, i);
            if (t != 0) {
                quarter[i] = t > 0 ? 1 : 3;
                continue;
            }
            Wide dot = 0;
            for (size_t k = 0; k < 3; ++k) dot += Wide(normal[0][k]) * normal[i][k];
            quarter[i] = dot > 0 ? 0 : 2;
            if (dot > 0) sound = false;
        }
        std::sort(order.begin(), order.end(), [&](size_t i, size_t j) {
            if (quarter[i] != quarter[j]) return quarter[i] < quarter[j];
            if (quarter[i] == 0 || quarter[i] == 2) return i < j;
            return turn(i, j) > 0;
        });
        out.clear();
        for (size_t i : order) out.push_back({halves_[first + i].corner / 3, way[i]});
        return sound;
    }

    /// Sides of pieces that look into the same cell.
    bool join_sides() {
        sides_ = UnionFind(2 * cut_.pieces.size());
        bool closed = true;
        std::vector<Around> around;
        each_edge([&](int low, size_t first, size_t last) {
            if (last - first == 1) {
                closed = false;
            } else if (last - first == 2) {
                int f = halves_[first].corner / 3, g = halves_[first + 1].corner / 3;
                bool alike = way_of(halves_[first], low) != way_of(halves_[first + 1], low);
                sides_.join(uint32_t(front(f)), uint32_t(alike ? front(g) : back(g)));
                sides_.join(uint32_t(back(f)), uint32_t(alike ? back(g) : front(g)));
            } else {
                closed = sort_around(low, first, last, around) && closed;
                for (size_t q = 0; q < around.size(); ++q) {
                    const Around &a = around[q], &b = around[(q + 1) % around.size()];
                    sides_.join(uint32_t(a.way > 0 ? front(a.piece) : back(a.piece)),
                                uint32_t(b.way > 0 ? back(b.piece) : front(b.piece)));
                }
            }
        });
        return closed;
    }

    void number_cells() {
        size_t count = cut_.pieces.size();
        cell_.assign(2 * count, 0);
        std::vector<int> number(2 * count, -1);
        cells_ = 0;
        for (size_t s = 0; s < 2 * count; ++s) {
            size_t root = sides_.find(uint32_t(s));
            if (number[root] < 0) number[root] = int(cells_++);
            cell_[s] = number[root];
        }
        // Signed volume of each cell's rim: the outer cell of a lump has the least.
        volume_.assign(cells_, 0);
        std::vector<int> reference(cells_, -1);
        for (size_t p = 0; p < count; ++p)
            for (size_t s = 0; s < 2; ++s) {
                size_t c = size_t(cell_[2 * p + s]);
                const Corners& t = cut_.pieces[p].corners;
                if (reference[c] < 0) reference[c] = t[0];
                Eigen::Map<const Vec3> o(cut_.points.rounded(reference[c])), a(cut_.points.rounded(t[0])),
                    b(cut_.points.rounded(t[1])), d(cut_.points.rounded(t[2]));
                double v = (a - o).dot((b - a).cross(d - a)) / 6;
                volume_[c] += s ? v : -v;
            }
        doors_.assign(cells_, {});
        std::map<std::pair<int, int>, bool> seen;
        for (size_t p = 0; p < count; ++p) {
            int a = cell_[2 * p], b = cell_[2 * p + 1];
            if (a == b || !seen.emplace(std::pair(a, b), true).second) continue;
            doors_[size_t(a)].push_back({b, int(p), 1});
            doors_[size_t(b)].push_back({a, int(p), -1});
        }
    }

    /// Going through a piece from its front to its back enters what it bounds.
    void pass(int p, int way) {
        const Piece& q = piece(p);
        auto enter = [&](int facet, int turned) { wind(cut_.operand_of[size_t(facet)], way * turned); };
        if (q.first_source < 0) return enter(q.facet, 1);
        for (int s = q.first_source; s < q.last_source; ++s) {
            const Source& source = cut_.sources[size_t(s)];
            // The piece runs as its own facet does; a source turned the other way is left instead.
            enter(source.facet, source.way);
        }
    }
    void wind(int operand, int by) {
        bool before = winding_[size_t(operand)] > 0;
        winding_[size_t(operand)] += by;
        bool after = winding_[size_t(operand)] > 0;
        inside_ += int(after) - int(before);
        if (operand == 0) first_inside_ = after;
    }
    bool wanted() const {
        if (operation_ == Operation::Join) return inside_ > 0;
        if (operation_ == Operation::Common) return inside_ == int(operands_);
        return first_inside_ && inside_ == 1;
    }

    void wind_all() {
        UnionFind lumps(cells_);
        for (size_t c = 0; c < cells_; ++c)
            for (const Door& d : doors_[c]) lumps.join(uint32_t(c), uint32_t(d.to));
        std::vector<int> outer(cells_, -1);
        for (size_t c = 0; c < cells_; ++c) {
            int& o = outer[lumps.find(uint32_t(c))];
            if (o < 0 || volume_[c] < volume_[size_t(o)]) o = int(c);
        }
        // A grid point of each lump that no other lump has, to ask what lies round it; lump of each input facet.
        std::vector<int> lump_of(cut_.facets.size(), -1), owner(cut_.points.count(), -1), place(cells_, -1);
        for (size_t p = 0; p < cut_.pieces.size(); ++p) {
            int lump = int(lumps.find(uint32_t(cell_[2 * p])));
            const Piece& q = cut_.pieces[p];
            if (q.first_source < 0) lump_of[size_t(q.facet)] = lump;
            for (int s = q.first_source; s < q.last_source; ++s) lump_of[size_t(cut_.sources[size_t(s)].facet)] = lump;
            for (int v : q.corners) {
                int& o = owner[size_t(v)];
                o = o == -1 || o == lump ? lump : -2;
                if (cut_.points.is_grid(v) && place[size_t(lump)] < 0) place[size_t(lump)] = v;
            }
        }
        for (size_t v = 0; v < cut_.points.grid_count(); ++v)
            if (owner[v] >= 0) place[size_t(owner[v])] = int(v);
        keep_.assign(cells_, 0);
        seen_.assign(cells_, 0);
        for (size_t lump = 0; lump < cells_; ++lump) {
            if (lumps.find(uint32_t(lump)) != lump || outer[lump] < 0 || place[lump] < 0) continue;
            winding_.assign(operands_, 0);
            inside_ = 0;
            first_inside_ = false;
            count_round(place[lump], int(lump), lump_of);
            walk(outer[lump]);
        }
    }

    /// Windings round a place, of all other lumps: a ray along x turned aside by next to nothing, exactly.
    void count_round(int place, int lump, const std::vector<int>& lump_of) {
        const GridPoint& p = cut_.points.grid(place);
        cut_.along_x(place, [&](int t) {
            if (lump_of[size_t(t)] == lump) return;
            const Normal& n = cut_.normals[size_t(t)];
            const Corners& c = cut_.facets[size_t(t)];
            int faces = 0;
            for (size_t k = 0; k < 3 && !faces; ++k) faces = n[k] > 0 ? 1 : n[k] < 0 ? -1 : 0;
            Wide ahead = 0;
            for (size_t k = 0; k < 3; ++k) ahead += Wide(n[k]) * int64_t(cut_.points.grid(c[0])[k] - p[k]);
            if (sign_of(ahead) * faces <= 0) return;
            int side[3];
            for (size_t e = 0; e < 3; ++e) {
                const GridPoint &a = cut_.points.grid(c[e]), &b = cut_.points.grid(c[(e + 1) % 3]);
                int64_t x[3], y[3];
                for (size_t k = 0; k < 3; ++k) x[k] = int64_t(a[k] - p[k]), y[k] = int64_t(b[k] - p[k]);
                side[e] = 0;
                for (size_t k = 0; k < 3 && !side[e]; ++k) {
                    int64_t q = x[(k + 1) % 3] * y[(k + 2) % 3] - x[(k + 2) % 3] * y[(k + 1) % 3];
                    side[e] = q > 0 ? 1 : q < 0 ? -1 : 0;
                }
            }
            if (side[0] == side[1] && side[1] == side[2]) wind(cut_.operand_of[size_t(t)], faces);
        });
    }

    struct Door {
        int to, piece, way; ///< 1: through the piece from front to back
    };

    /// From the outer cell through all of a lump, windings put on and taken back.
    void walk(int from) {
        struct Step {
            int cell;
            size_t next;
            Door through;
        };
        std::vector<Step> path{{from, 0, {-1, -1, 0}}};
        seen_[size_t(from)] = 1;
        keep_[size_t(from)] = wanted();
        while (!path.empty()) {
            Step& now = path.back();
            if (now.next < doors_[size_t(now.cell)].size()) {
                Door door = doors_[size_t(now.cell)][now.next++];
                if (seen_[size_t(door.to)]) continue;
                pass(door.piece, door.way);
                seen_[size_t(door.to)] = 1;
                keep_[size_t(door.to)] = wanted();
                path.push_back({door.to, 0, door});
            } else {
                Door back_through = now.through;
                path.pop_back();
                if (back_through.piece >= 0) pass(back_through.piece, -back_through.way);
            }
        }
    }

    /// The facets between kept and other cells; at edges with more than two the corners are doubled round each wedge.
    TriMesh extract(const std::vector<TriMesh>& operands, double scale) {
        std::vector<int> kept(cut_.pieces.size(), -1), list;
        auto kept_front = [&](int p) { return keep_[size_t(cell_[front(p)])] != 0; };
        for (size_t p = 0; p < cut_.pieces.size(); ++p)
            if (keep_[size_t(cell_[2 * p])] != keep_[size_t(cell_[2 * p + 1])]) {
                kept[p] = int(list.size());
                list.push_back(int(p));
            }
        UnionFind corners(3 * list.size());
        auto corner = [&](int p, int v) {
            const Corners& c = piece(p).corners;
            size_t i = c[0] == v ? 0 : c[1] == v ? 1 : 2;
            return uint32_t(3 * size_t(kept[size_t(p)]) + i);
        };
        auto hang = [&](int f, int g, int a, int b) {
            corners.join(corner(f, a), corner(g, a));
            corners.join(corner(f, b), corner(g, b));
        };
        std::vector<Around> around;
        each_edge([&](int low, size_t first, size_t last) {
            std::vector<int> there;
            for (size_t i = first; i < last; ++i)
                if (kept[size_t(halves_[i].corner / 3)] >= 0) there.push_back(halves_[i].corner / 3);
            int high = halves_[first].other;
            if (there.size() == 2) return hang(there[0], there[1], low, high);
            if (there.size() < 2) return;
            sort_around(low, first, last, around);
            std::erase_if(around, [&](const Around& a) { return kept[size_t(a.piece)] < 0; });
            for (size_t q = 0; q < around.size(); ++q) {
                const Around &a = around[q], &b = around[(q + 1) % around.size()];
                size_t side = a.way > 0 ? front(a.piece) : back(a.piece);
                if (keep_[size_t(cell_[side])]) hang(a.piece, b.piece, low, high);
            }
        });
        TriMesh mesh;
        bool tagged = true;
        for (const TriMesh& o : operands) tagged = tagged && o.tags.size() == o.triangles.size();
        std::vector<long> vertex(3 * list.size(), -1);
        for (size_t q = 0; q < list.size(); ++q) {
            Triangle t{};
            const Piece& p = piece(list[q]);
            for (size_t i = 0; i < 3; ++i) {
                long& v = vertex[corners.find(uint32_t(3 * q + i))];
                if (v < 0) {
                    const double* x = cut_.points.rounded(p.corners[i]);
                    v = long(mesh.vertices.size());
                    mesh.vertices.push_back(Vec3(x[0], x[1], x[2]) / scale);
                }
                t[i] = uint32_t(v);
            }
            bool flip = kept_front(list[q]);
            if (flip) std::swap(t[1], t[2]);
            mesh.triangles.push_back(t);
            if (tagged) {
                int facet = p.facet;
                for (int s = p.first_source; s < p.last_source; ++s) {
                    const Source& source = cut_.sources[size_t(s)];
                    if (s == p.first_source) facet = source.facet;
                    if (source.way * (flip ? -1 : 1) > 0 && cut_.operand_of[size_t(source.facet)] == 0) {
                        facet = source.facet; // the first body's own face goes before what only touches it
                        break;
                    }
                }
                mesh.tags.push_back(
                    operands[size_t(cut_.operand_of[size_t(facet)])].tags[size_t(cut_.source_of[size_t(facet)])]);
            }
        }
        return mesh;
    }

    FacetArrangement& cut_;
    Operation operation_;
    size_t operands_, cells_ = 0;
    std::vector<size_t> start_;
    std::vector<Half> halves_;
    UnionFind sides_{0};
    std::vector<int> cell_; ///< of each side of each piece: 2 p the front, 2 p + 1 the back
    std::vector<double> volume_;
    std::vector<std::vector<Door>> doors_;
    std::vector<int> winding_;
    int inside_ = 0;
    bool first_inside_ = false;
    std::vector<char> keep_, seen_;
};

} // namespace

Expected<TriMesh> arrange_meshes(Operation operation, const std::vector<TriMesh>& operands, const Task& task,
                                 bool within_shells) {
    double largest = 0;
    for (const TriMesh& mesh : operands)
        for (const Vec3& v : mesh.vertices) largest = std::max(largest, v.cwiseAbs().maxCoeff());
    if (!(largest > 0 && std::isfinite(largest)))
        return problem(ProblemCode::Geometry, "These meshes have no size.", "Bring in others.");
    const double scale = std::exp2(26 - std::ceil(std::log2(largest)));
    FacetArrangement cut(operands, scale, within_shells);
    if (task.stopped()) return cancelled();
    if (cut.facets.empty()) return problem(ProblemCode::Geometry, "These meshes have no size.", "Bring in others.");
    auto mesh = SpaceCells(cut, operation, operands.size()).run(operands, scale);
    if (!mesh) return problem(ProblemCode::Geometry, "These meshes could not be arranged.", "Mend both first.");
    return std::move(*mesh);
}

} // namespace lp
