#include "mesh/mend.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "base/union_find.h"
#include "mesh/combine.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <cmath>
#include <numeric>
#include <unordered_map>

namespace lp {
namespace {

class Mender {
  public:
    Mender(const TriMesh& mesh, const MendOptions& options, const Task& task) : options_(options), task_(task) {
        Soundness first = check_soundness(mesh, {}, task);
        if (task.stopped()) return;
        if (first.sound() && !(first.touching && *first.touching) && !has_debris(first)) {
            mesh_ = mesh; // bit by bit
            sound_ = true;
            return;
        }
        mesh_ = std::move(first.kept);
        cure("drop_nonfinite", first.nonfinite.count, "dropped", "facets with corners that are no place");
        cure("drop_degenerate", first.degenerate.count, "dropped", "facets without area");
        cure("drop_duplicate", first.duplicate.count, "dropped", "facets that were there twice");
    }

    Expected<Mended> run() {
        if (task_.stopped()) return cancelled();
        if (sound_) {
            result_.mesh = std::move(mesh_);
            return std::move(result_);
        }
        if (mesh_.empty())
            return problem(ProblemCode::Geometry, "Nothing usable is left of this mesh.", "Bring in another file.");
        using O = MendOnly;
        struct Stage {
            MendOnly of;
            const char* doing;
            void (Mender::*work)();
        };
        const Stage stages[] = {{O::Welding, "Welding open edges", &Mender::weld_open_edges},
                                {O::Welding, "Closing T-joints", &Mender::split_t_joints},
                                {O::Uniting, "Joining what touches", &Mender::join_touching},
                                {O::Parting, "Parting crowded edges", &Mender::split_nonmanifold},
                                {O::Turning, "Turning facets", &Mender::agree},
                                {O::Dropping, "Dropping loose facets", &Mender::drop_loose},
                                {O::Filling, "Filling holes", &Mender::fill_holes},
                                {O::Parting, "Parting crowded corners", &Mender::split_pinches},
                                {O::Turning, "Turning shells outward", &Mender::turn_outward},
                                {O::Dropping, "Dropping debris", &Mender::drop_debris},
                                {O::Uniting, "Uniting shells", &Mender::unite}};
        double share = 0.2;
        for (const Stage& stage : stages) {
            if (task_.stopped()) return cancelled();
            if (options_.only != O::All && options_.only != stage.of) continue;
            task_.tell(stage.doing, share);
            (this->*stage.work)();
            share += 0.08;
        }
        result_.mesh = std::move(mesh_);
        drop_unused_vertices(result_.mesh);
        return std::move(result_);
    }

  private:
    void cure(const std::string& kind, size_t count, const std::string& verb, const std::string& what) {
        if (count) result_.cures.push_back({kind, count, verb + " " + std::to_string(count) + " " + what});
    }

    /// Corners of open edges within the tolerance become one, nearest pairs first. A merge that would flatten a facet
    /// is left out.
    void weld_open_edges() {
        Topology topology = build_topology(mesh_);
        std::vector<uint32_t> border;
        for (const MeshEdge& e : topology.edges)
            if (e.count == 1) border.insert(border.end(), {e.a, e.b});
        std::sort(border.begin(), border.end());
        border.erase(std::unique(border.begin(), border.end()), border.end());
        if (border.empty() || options_.tolerance_mm <= 0) return;
        const double cell = options_.tolerance_mm;
        auto key = [&](const Vec3& p, int dx, int dy, int dz) {
            auto q = [&](double v, int d) { return uint64_t(int64_t(std::floor(v / cell)) + d) & 0x1fffff; };
            return q(p.x(), dx) << 42 | q(p.y(), dy) << 21 | q(p.z(), dz);
        };
        std::unordered_map<uint64_t, std::vector<uint32_t>> grid;
        for (uint32_t v : border) grid[key(mesh_.vertices[v], 0, 0, 0)].push_back(v);
        struct Pair {
            double distance;
            uint32_t a, b;
        };
        std::vector<Pair> pairs;
        for (uint32_t v : border)
            for (int n = 0; n < 27; ++n) {
                auto found = grid.find(key(mesh_.vertices[v], n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1));
                if (found == grid.end()) continue;
                for (uint32_t w : found->second) {
                    double d = (mesh_.vertices[v] - mesh_.vertices[w]).norm();
                    if (w > v && d <= options_.tolerance_mm) pairs.push_back({d, v, w});
                }
            }
        std::stable_sort(pairs.begin(), pairs.end(),
                         [](const Pair& x, const Pair& y) { return x.distance < y.distance; });
        UnionFind places(mesh_.vertices.size());
        // Corners of one facet must stay apart.
        std::unordered_map<uint32_t, std::vector<uint32_t>> facets;
        for (uint32_t i = 0; i < mesh_.triangles.size(); ++i)
            for (uint32_t v : mesh_.triangles[i])
                if (std::binary_search(border.begin(), border.end(), v)) facets[v].push_back(i);
        size_t merged = 0;
        for (const Pair& pair : pairs) {
            uint32_t a = places.find(pair.a), b = places.find(pair.b);
            if (a == b) continue;
            if (b < a) std::swap(a, b); // the smaller names the group
            bool flattens = false;
            for (uint32_t i : facets[b])
                for (uint32_t v : mesh_.triangles[i]) flattens = flattens || places.find(v) == a;
            if (flattens) continue;
            places.join(a, b);
            auto& list = facets[a];
            list.insert(list.end(), facets[b].begin(), facets[b].end());
            result_.largest_move_mm = std::max(result_.largest_move_mm, (mesh_.vertices[a] - mesh_.vertices[b]).norm());
            ++merged;
        }
        if (!merged) return;
        for (Triangle& t : mesh_.triangles)
            for (uint32_t& v : t) v = places.find(v);
        cure("weld", merged, "welded", "corners that lay side by side");
        Soundness again = check_soundness(mesh_, {.self_intersections = false}, task_);
        mesh_ = std::move(again.kept);
        cure("drop_duplicate", again.duplicate.count, "dropped", "facets that were there twice after welding");
        cure("drop_degenerate", again.degenerate.count, "dropped", "facets without area after welding");
    }

    /// A corner that lies on somebody else's open edge leaves a slit without width: that facet is split there, so that
    /// the two sides meet corner to corner.
    void split_t_joints() {
        const double near = std::max(options_.tolerance_mm, tolerance::same_mm);
        size_t split = 0;
        for (int pass = 0; pass < 8; ++pass) {
            size_t now = split_t_joints_once(near);
            split += now;
            if (now == 0 || task_.stopped()) break;
        }
        cure("close_t_joint", split, "closed", "slits where a corner met an edge");
    }

    size_t split_t_joints_once(double near) {
        Topology topology = build_topology(mesh_);
        std::vector<uint32_t> border;
        for (const MeshEdge& e : topology.edges)
            if (e.count == 1) border.insert(border.end(), {e.a, e.b});
        auto by_x = [&](uint32_t v, uint32_t w) {
            return std::pair(mesh_.vertices[v].x(), v) < std::pair(mesh_.vertices[w].x(), w);
        };
        std::sort(border.begin(), border.end(), by_x);
        border.erase(std::unique(border.begin(), border.end()), border.end());
        std::vector<bool> done(mesh_.triangles.size(), false); // one side of a facet a pass
        size_t split = 0;
        bool tagged = mesh_.tags.size() == mesh_.triangles.size();
        for (const MeshEdge& e : topology.edges) {
            if (e.count != 1) continue;
            const MeshHalfEdge& half = topology.half_edges[e.first];
            if (done[half.triangle]) continue;
            uint32_t from = half.forward ? e.a : e.b, to = half.forward ? e.b : e.a, apex = 0;
            for (uint32_t v : mesh_.triangles[half.triangle])
                if (v != e.a && v != e.b) apex = v;
            Vec3 p = mesh_.vertices[from], d = mesh_.vertices[to] - p;
            double length = d.norm();
            std::vector<std::pair<double, uint32_t>> on;
            double low = std::min(p.x(), p.x() + d.x()) - near, high = std::max(p.x(), p.x() + d.x()) + near;
            auto first = std::lower_bound(border.begin(), border.end(), low,
                                          [&](uint32_t v, double x) { return mesh_.vertices[v].x() < x; });
            for (auto it = first; it != border.end() && mesh_.vertices[*it].x() <= high; ++it) {
                if (*it == from || *it == to || *it == apex) continue;
                double t = (mesh_.vertices[*it] - p).dot(d) / (length * length);
                if (t * length <= near || (1 - t) * length <= near) continue;
                if ((mesh_.vertices[*it] - p - t * d).norm() <= near) on.push_back({t, *it});
            }
            if (on.empty()) continue;
            std::sort(on.begin(), on.end());
            on.push_back({1, to});
            done[half.triangle] = true;
            uint32_t start = from;
            for (size_t k = 0; k < on.size(); ++k) {
                Triangle piece{start, on[k].second, apex};
                start = on[k].second;
                if (k == 0) {
                    mesh_.triangles[half.triangle] = piece;
                } else {
                    mesh_.triangles.push_back(piece);
                    if (tagged) mesh_.tags.push_back(Tag(mesh_.tags[half.triangle]));
                }
            }
            split += on.size() - 1;
        }
        return split;
    }

    /// Facets at an edge with more than two of them are parted into sheets: paired with the next facet around the edge
    /// that faces it across material; what stays alone gets an open edge. Corners are doubled accordingly.
    void split_nonmanifold() {
        Topology topology = build_topology(mesh_);
        UnionFind corners(mesh_.triangles.size() * 3);
        auto corner = [&](uint32_t triangle, uint32_t v) {
            const Triangle& t = mesh_.triangles[triangle];
            return 3 * triangle + (t[0] == v ? 0 : t[1] == v ? 1 : 2);
        };
        auto join = [&](uint32_t s, uint32_t t, uint32_t v) { corners.join(corner(s, v), corner(t, v)); };
        size_t crowded = 0;
        std::vector<bool> on_crowded(mesh_.vertices.size(), false);
        for (const MeshEdge& e : topology.edges) {
            if (e.count == 2) {
                for (uint32_t v : {e.a, e.b})
                    join(topology.half_edges[e.first].triangle, topology.half_edges[e.first + 1].triangle, v);
            } else if (e.count > 2) {
                ++crowded;
                on_crowded[e.a] = on_crowded[e.b] = true;
                for (auto [s, t] : pairs_around(topology, e))
                    for (uint32_t v : {e.a, e.b}) join(s, t, v);
            }
        }
        if (!crowded) return;
        part_corners(corners);
        on_crowded.resize(mesh_.vertices.size(), true);
        drop_inner_sheets(on_crowded);
        cure("split_nonmanifold", crowded, "parted", "edges with more than two facets");
    }

    /// A flat sheet whose whole rim lies on crowded edges stood inside or against a body and bounds nothing.
    void drop_inner_sheets(const std::vector<bool>& on_crowded) {
        Topology topology = build_topology(mesh_);
        std::vector<bool> open(topology.shells, false), free_rim(topology.shells, false);
        std::vector<Vec3> sum(topology.shells, Vec3::Zero());
        std::vector<double> area(topology.shells, 0);
        for (size_t i = 0; i < mesh_.triangles.size(); ++i) {
            sum[topology.shell_of[i]] += mesh_.area_vector(i);
            area[topology.shell_of[i]] += mesh_.area_vector(i).norm();
        }
        auto flat = [&](uint32_t shell) { return sum[shell].norm() > 0.999 * area[shell]; };
        for (const MeshEdge& e : topology.edges)
            if (e.count == 1) {
                uint32_t shell = topology.shell_of[topology.half_edges[e.first].triangle];
                open[shell] = true;
                if (!on_crowded[e.a] || !on_crowded[e.b]) free_rim[shell] = true;
            }
        size_t dropped = 0;
        TriMesh kept;
        bool tagged = mesh_.tags.size() == mesh_.triangles.size();
        for (size_t i = 0; i < mesh_.triangles.size(); ++i) {
            uint32_t shell = topology.shell_of[i];
            if (open[shell] && !free_rim[shell] && flat(shell)) {
                ++dropped;
                continue;
            }
            kept.triangles.push_back(mesh_.triangles[i]);
            if (tagged) kept.tags.push_back(mesh_.tags[i]);
        }
        if (!dropped || kept.triangles.empty()) return;
        mesh_.triangles.swap(kept.triangles);
        mesh_.tags.swap(kept.tags);
        cure("drop_sheet", dropped, "dropped", "facets of sheets that bound nothing");
    }

    /// Facets that touch only at a corner get a corner each.
    void split_pinches() {
        Topology topology = build_topology(mesh_);
        auto pinched = pinched_vertices(mesh_, topology);
        if (pinched.empty()) return;
        UnionFind corners(mesh_.triangles.size() * 3);
        for (const MeshEdge& e : topology.edges)
            for (uint32_t h = e.first + 1; h < e.first + e.count; ++h)
                for (uint32_t v : {e.a, e.b}) {
                    auto corner = [&](uint32_t triangle) {
                        const Triangle& t = mesh_.triangles[triangle];
                        return 3 * triangle + (t[0] == v ? 0 : t[1] == v ? 1 : 2);
                    };
                    corners.join(corner(topology.half_edges[e.first].triangle),
                                 corner(topology.half_edges[h].triangle));
                }
        part_corners(corners);
        cure("split_corner", pinched.size(), "parted", "corners where surfaces only touch");
    }

    void part_corners(UnionFind& corners) {
        const size_t before = mesh_.vertices.size();
        std::vector<bool> taken(mesh_.vertices.size(), false);
        std::unordered_map<uint32_t, uint32_t> vertex_of; // corner group -> vertex
        for (uint32_t c = 0; c < mesh_.triangles.size() * 3; ++c) {
            uint32_t& v = mesh_.triangles[c / 3][c % 3];
            auto [it, fresh] = vertex_of.try_emplace(corners.find(c), v);
            if (fresh) {
                if (taken[v]) {
                    it->second = uint32_t(mesh_.vertices.size());
                    mesh_.vertices.push_back(Vec3(mesh_.vertices[v]));
                    taken.push_back(true);
                } else {
                    taken[v] = true;
                }
            }
            v = it->second;
        }
        // A copy in the very same place would be welded again by whoever reads the file: step it back into its own
        // surface by less than any printer can show.
        std::vector<Vec3> inward(mesh_.vertices.size() - before, Vec3::Zero());
        for (size_t i = 0; i < mesh_.triangles.size(); ++i)
            for (uint32_t v : mesh_.triangles[i])
                if (v >= before) {
                    Vec3 middle = (mesh_.corner(i, 0) + mesh_.corner(i, 1) + mesh_.corner(i, 2)) / 3;
                    inward[v - before] += (middle - mesh_.vertices[v]).normalized();
                }
        for (size_t k = 0; k < inward.size(); ++k)
            if (inward[k].norm() > 1e-9) {
                mesh_.vertices[before + k] += inward[k].normalized() * tolerance::same_mm * 2;
                result_.largest_move_mm = std::max(result_.largest_move_mm, tolerance::same_mm * 2);
            }
    }

    std::vector<std::pair<uint32_t, uint32_t>> pairs_around(const Topology& topology, const MeshEdge& e) const {
        Vec3 axis = (mesh_.vertices[e.b] - mesh_.vertices[e.a]).normalized();
        Vec3 x = axis.unitOrthogonal(), y = axis.cross(x);
        struct Blade {
            double angle;
            uint32_t triangle;
            bool forward, used = false;
        };
        std::vector<Blade> blades;
        for (uint32_t h = e.first; h < e.first + e.count; ++h) {
            const MeshHalfEdge& half = topology.half_edges[h];
            Vec3 out = Vec3::Zero();
            for (uint32_t v : mesh_.triangles[half.triangle])
                if (v != e.a && v != e.b) out = mesh_.vertices[v] - mesh_.vertices[e.a];
            blades.push_back({std::atan2(out.dot(y), out.dot(x)), half.triangle, half.forward});
        }
        std::sort(blades.begin(), blades.end(), [](const Blade& p, const Blade& q) { return p.angle < q.angle; });
        // Behind a facet running from a to b lies its material, towards smaller angles. An even number is paired with
        // the nearest facet running back there: each pair bounds a wedge of material. An odd number has a sheet
        // standing in the material: the farthest is taken, so that the sheet is what stays alone.
        bool odd = blades.size() % 2 == 1;
        std::vector<std::pair<uint32_t, uint32_t>> pairs;
        size_t n = blades.size();
        for (size_t i = 0; i < n; ++i) {
            if (blades[i].used || !blades[i].forward) continue;
            for (size_t step = 1; step < (odd ? n : 2); ++step) {
                Blade& back = blades[(i + (odd ? step : n - step)) % n];
                if (back.used || back.forward) continue;
                back.used = blades[i].used = true;
                pairs.push_back({blades[i].triangle, back.triangle});
                break;
            }
        }
        std::vector<uint32_t> forward, backward;
        for (const Blade& blade : blades)
            if (!blade.used) (blade.forward ? forward : backward).push_back(blade.triangle);
        for (size_t i = 0; i < std::min(forward.size(), backward.size()); ++i)
            pairs.push_back({forward[i], backward[i]});
        return pairs;
    }

    void agree() {
        Topology topology = build_topology(mesh_);
        auto turned = turned_against_neighbours(mesh_, topology);
        size_t count = 0;
        for (uint32_t i = 0; i < mesh_.triangles.size(); ++i)
            if (turned[i]) {
                std::swap(mesh_.triangles[i][1], mesh_.triangles[i][2]);
                ++count;
            }
        cure("turn", count, "turned over", "facets that faced against their neighbours");
    }

    /// A rim that comes back to a corner goes round several holes there: each is filled by itself.
    static std::vector<std::vector<uint32_t>> simple_loops(const std::vector<std::vector<uint32_t>>& rims) {
        std::vector<std::vector<uint32_t>> result;
        for (const auto& rim : rims) {
            std::vector<uint32_t> path;
            for (uint32_t v : rim) {
                auto seen = std::find(path.begin(), path.end(), v);
                if (seen != path.end()) {
                    result.emplace_back(seen, path.end());
                    path.erase(seen, path.end());
                }
                path.push_back(v);
            }
            if (path.size() > 2) result.push_back(std::move(path));
        }
        return result;
    }

    void fill_holes() {
        Topology topology = build_topology(mesh_);
        size_t filled = 0;
        bool tagged = mesh_.tags.size() == mesh_.triangles.size();
        for (const auto& loop : simple_loops(boundary_loops(mesh_, topology))) {
            if (task_.stopped()) return;
            std::vector<Vec3> points;
            for (uint32_t v : loop) points.push_back(mesh_.vertices[v]);
            auto patch = fill_loop(points);
            if (patch.empty()) {
                ++result_.holes_left;
                continue;
            }
            for (const Triangle& t : patch) mesh_.triangles.push_back({loop[t[0]], loop[t[1]], loop[t[2]]});
            if (tagged)
                mesh_.tags.resize(mesh_.triangles.size(),
                                  intern_tag({StepId(), FaceRole::Orphan, uint32_t(filled), 0, 0}));
            ++filled;
        }
        cure("fill_hole", filled, "filled", filled == 1 ? "hole" : "holes");
        if (filled) {
            // The patch must agree with its rim.
            auto turned = turned_against_neighbours(mesh_, build_topology(mesh_));
            for (uint32_t i = 0; i < mesh_.triangles.size(); ++i)
                if (turned[i]) std::swap(mesh_.triangles[i][1], mesh_.triangles[i][2]);
        }
    }

    /// Outer shells face outward; a shell inside one that was turned is turned with it, so that voids stay voids.
    void turn_outward() {
        Soundness now = check_soundness(mesh_, {.self_intersections = false}, task_);
        auto shells = extract_shells(now.kept, now.topology);
        std::vector<double> volume;
        std::vector<Box3> boxes;
        for (const TriMesh& shell : shells) {
            volume.push_back(mass_properties(shell).volume_mm3);
            boxes.push_back(bounding_box(shell));
        }
        std::vector<bool> turn(shells.size(), false);
        for (size_t s = 0; s < shells.size(); ++s)
            if (now.depth[s] == 0 && volume[s] < 0) turn[s] = true;
        for (size_t s = 0; s < shells.size(); ++s)
            for (size_t outer = 0; now.depth[s] > 0 && outer < shells.size(); ++outer)
                if (turn[outer] && now.depth[outer] == 0 && boxes[outer].contains(boxes[s])) turn[s] = true;
        size_t count = size_t(std::count(turn.begin(), turn.end(), true));
        if (!count) return;
        mesh_ = std::move(now.kept);
        for (uint32_t i = 0; i < mesh_.triangles.size(); ++i)
            if (turn[now.topology.shell_of[i]]) std::swap(mesh_.triangles[i][1], mesh_.triangles[i][2]);
        cure("turn_outward", count, "turned outward", count == 1 ? "shell" : "shells");
    }

    /// From corner to corner, of each shell.
    static std::vector<double> sizes_of(const Soundness& s) {
        std::vector<Box3> boxes(s.topology.shells);
        for (uint32_t i = 0; i < s.kept.triangles.size(); ++i)
            for (uint32_t v : s.kept.triangles[i]) boxes[s.topology.shell_of[i]].extend(s.kept.vertices[v]);
        std::vector<double> sizes;
        for (const Box3& box : boxes) sizes.push_back(box.diagonal().norm());
        return sizes;
    }
    /// Never what is large beside the rest: a model in metres is no debris.
    double debris_below(const std::vector<double>& sizes) const {
        return sizes.empty() ? 0 : std::min(options_.debris_mm, *std::max_element(sizes.begin(), sizes.end()) / 100);
    }
    template <class Dropped> static TriMesh without(const TriMesh& all, Dropped dropped) {
        const bool tagged = all.tags.size() == all.triangles.size();
        TriMesh kept{all.vertices, {}, {}};
        for (uint32_t i = 0; i < all.triangles.size(); ++i) {
            if (dropped(i)) continue;
            kept.triangles.push_back(all.triangles[i]);
            if (tagged) kept.tags.push_back(all.tags[i]);
        }
        return kept;
    }

    /// Flat scraps, and ones of two facets, that hang on nothing: closed they would have a back side and nothing
    /// between. Not where they are more than a tenth of the mesh, or all of it: then the surface itself is in pieces.
    void drop_loose() {
        const Topology topology = build_topology(mesh_);
        if (topology.shells < 2) return;
        std::vector<bool> open(topology.shells, false), bent(topology.shells, false);
        for (const MeshEdge& edge : topology.edges)
            if (edge.count == 1) open[topology.shell_of[topology.half_edges[edge.first].triangle]] = true;
        std::vector<Vec3> normal(topology.shells, Vec3::Zero()), at(topology.shells);
        std::vector<size_t> facets(topology.shells, 0);
        for (uint32_t i = 0; i < mesh_.triangles.size(); ++i) {
            const uint32_t shell = topology.shell_of[i];
            ++facets[shell];
            if (normal[shell].isZero())
                normal[shell] = mesh_.area_vector(i).normalized(), at[shell] = mesh_.corner(i, 0);
            constexpr double flat_mm = 1e-4;
            for (int k = 0; k < 3; ++k)
                bent[shell] = bent[shell] || std::fabs((mesh_.corner(i, k) - at[shell]).dot(normal[shell])) > flat_mm;
        }
        size_t scraps = 0;
        auto loose = [&](uint32_t i) {
            const uint32_t shell = topology.shell_of[i];
            return open[shell] && (!bent[shell] || facets[shell] <= 2);
        };
        for (uint32_t i = 0; i < mesh_.triangles.size(); ++i) scraps += loose(i);
        if (scraps == 0 || scraps * 10 > mesh_.triangles.size()) return;
        mesh_ = without(mesh_, loose);
        cure("drop_loose", scraps, "dropped", scraps == 1 ? "loose facet" : "loose facets");
    }

    bool has_debris(const Soundness& s) const {
        const auto sizes = sizes_of(s);
        return !sizes.empty() && *std::min_element(sizes.begin(), sizes.end()) < debris_below(sizes);
    }

    void drop_debris() {
        Soundness now = check_soundness(mesh_, {.self_intersections = false}, task_);
        const auto sizes = sizes_of(now);
        const double below = debris_below(sizes);
        const auto count = size_t(std::count_if(sizes.begin(), sizes.end(), [&](double s) { return s < below; }));
        if (!count) return;
        mesh_ = without(now.kept, [&](uint32_t i) { return sizes[now.topology.shell_of[i]] < below; });
        cure("drop_debris", count, "dropped",
             count == 1 ? "piece too small to be printed" : "pieces too small to be printed");
    }

    /// Bodies that share a face have crowded edges round it: joined, not parted there. Where the surface is otherwise
    /// in order; elsewhere the later stages see to it.
    void join_touching() {
        if (!options_.unite) return;
        Soundness now = check_soundness(mesh_, {.self_intersections = false}, task_);
        if (!now.closed || now.open_edges || !now.nonmanifold_edges || now.inconsistent_edges || now.flipped) return;
        size_t touching = 0;
        for (const MeetingPair& pair : meeting_pairs(now.kept, task_)) touching += pair.how == Meeting::Against;
        if (!touching || task_.stopped()) return;
        auto united = united_with_itself(now.kept, task_);
        if (!united) return;
        mesh_ = std::move(*united);
        cure("join_touching", touching, "joined", "places where facets lay against each other");
    }

    /// Only what is closed tells inside from outside.
    void unite() {
        if (result_.holes_left || !options_.unite) return;
        const Soundness now = check_soundness(mesh_, {}, task_);
        const size_t crossing = now.self_intersecting ? now.self_intersecting->count : 0,
                     overlapping = now.overlapping_shells ? now.overlapping_shells->count : 0;
        const size_t touching = now.touching ? now.touching->count : 0;
        if (task_.stopped() || !now.closed || now.open_edges ||
            !(crossing || overlapping || touching || now.inner_shells))
            return;
        auto united = united_with_itself(now.kept, task_);
        if (!united) return; // it is left as it is: the counts after say so
        mesh_ = std::move(*united);
        cure("unite", overlapping, "united",
             overlapping == 1 ? "shell with another" : "shells that passed through others");
        cure("drop_hidden", now.inner_shells.count, "took away",
             now.inner_shells.count == 1 ? "shell hidden inside" : "shells hidden inside");
        cure("join_touching", touching, "joined", "facets that lay against others");
        if (!overlapping) cure("part_crossing", crossing, "parted", "facets that passed through others");
    }

    static void drop_unused_vertices(TriMesh& mesh) {
        std::vector<uint32_t> map(mesh.vertices.size(), ~0u);
        std::vector<Vec3> kept;
        for (Triangle& t : mesh.triangles)
            for (uint32_t& v : t) {
                if (map[v] == ~0u) {
                    map[v] = uint32_t(kept.size());
                    kept.push_back(mesh.vertices[v]);
                }
                v = map[v];
            }
        mesh.vertices.swap(kept);
    }

    MendOptions options_;
    const Task& task_;
    TriMesh mesh_;
    bool sound_ = false; ///< there is nothing to do
    Mended result_;
};

} // namespace

Expected<Mended> mend(const TriMesh& mesh, const MendOptions& options, const Task& task) {
    return Mender(mesh, options, task).run();
}

} // namespace lp
