#include "project/assembly_order.h"
#include "base/quantity.h"
#include "base/text.h"
#include "project/contact_words.h"
#include "project/standing.h"
#include "project/way_out.h"
#include "shape/ray_scene.h"
#include <algorithm>
#include <map>
#include <numeric>
#include <set>

namespace lp {
namespace {

constexpr size_t most_rays = 1500;    ///< of a part in a way
constexpr double start_off_mm = 0.02; ///< what lies on it is not in its way
constexpr double leans_in = 0.08;     ///< a face that lies along the way meets nothing on it
constexpr double apart_more_mm = 8;   ///< between things that are drawn apart

struct Sample {
    Vec3 at, out;
};

/// Out of its place: legs, and from there straight on.
struct Way {
    Vec3 on = Vec3::Zero();
    std::vector<Vec3> legs = {};
};

/// What is looked at of a thing on its way: places all over it, and rays against it.
struct Hull {
    std::vector<Sample> samples; ///< on its surface, spread evenly
    std::unique_ptr<RayScene> rays;
};

/// A part where it stands in the assembly.
struct Piece {
    const PartResult* made = nullptr;
    PartPtr part;
    Transform place = Transform::Identity(); ///< where it stands, its first body
    TriMesh mesh;
    Box3 box;
    Hull whole;
    std::optional<Hull> stiff; ///< without its hooks and clips, which give way; of a part that has some
    const Hull& without_hooks() const { return stiff ? *stiff : whole; }
    std::vector<Way> ways; ///< that may lead out
    std::string no_way;    ///< why its own cannot be gone
    double room_mm3 = 0;   ///< of its box: what holds others is larger than they, however thin
};

std::vector<Sample> samples_of(const TriMesh& mesh) {
    std::vector<double> areas(mesh.triangles.size());
    double all = 0;
    for (size_t i = 0; i < areas.size(); ++i) {
        const Triangle& t = mesh.triangles[i];
        areas[i] = (mesh.vertices[t[1]] - mesh.vertices[t[0]]).cross(mesh.vertices[t[2]] - mesh.vertices[t[0]]).norm();
        all += areas[i];
    }
    std::vector<Sample> samples;
    if (!(all > 0)) return samples;
    // One every so much area, at places within the facet that run through it evenly (a sequence of little discrepancy).
    const double each = all / most_rays;
    double due = each / 2;
    uint32_t n = 0;
    for (size_t i = 0; i < areas.size(); ++i) {
        due -= areas[i];
        while (due < 0) {
            due += each;
            ++n;
            double u = std::fmod(n * 0.7548776662466927, 1.0), v = std::fmod(n * 0.5698402909980532, 1.0);
            if (u + v > 1) u = 1 - u, v = 1 - v;
            const Triangle& t = mesh.triangles[i];
            const Vec3 a = mesh.vertices[t[0]], b = mesh.vertices[t[1]] - a, c = mesh.vertices[t[2]] - a;
            samples.push_back({a + u * b + v * c, b.cross(c).normalized()});
        }
    }
    return samples;
}

Hull hull_of(const TriMesh& mesh) {
    Hull hull{samples_of(mesh), std::make_unique<RayScene>()};
    hull.rays->add(mesh);
    hull.rays->commit();
    return hull;
}

/// The facets that are of no step that made something to bend; nothing of a part without any.
std::optional<TriMesh> without_what_bends(const PartResult& made, const TriMesh& mesh) {
    std::set<StepId> bending;
    for (const StepBody& body : made.bodies)
        for (const Bending& bend : body.bends) bending.insert(bend.step);
    if (bending.empty() || mesh.tags.size() != mesh.triangles.size()) return std::nullopt;
    TriMesh stiff;
    stiff.vertices = mesh.vertices;
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const auto meaning = tag_meaning(mesh.tags[i]);
        if (!meaning || !bending.count(meaning->step)) stiff.triangles.push_back(mesh.triangles[i]);
    }
    return stiff;
}

/// Straight ways that lead out: up first, then to the sides, then along the part's own axes and those of its round and
/// flat faces, the largest first.
std::vector<Way> ways_of(const PartResult& made, const Transform& place) {
    constexpr size_t most = 18;
    std::vector<Way> ways{{Vec3::UnitZ()},  {-Vec3::UnitY()}, {Vec3::UnitX()},
                          {-Vec3::UnitX()}, {Vec3::UnitY()},  {-Vec3::UnitZ()}};
    auto add = [&](const Vec3& axis) {
        for (double side : {1.0, -1.0}) {
            const Vec3 way = side * axis.normalized();
            if (ways.size() < most && way.allFinite() &&
                std::none_of(ways.begin(), ways.end(), [&](const Way& w) { return w.on.dot(way) > 0.999; }))
                ways.push_back({way});
        }
    };
    for (int k = 0; k < 3; ++k) add(place.linear().col(k));
    std::vector<std::pair<double, Vec3>> faces;
    for (const StepBody& body : made.bodies) {
        if (!body.body.is_exact()) continue;
        for (const FaceInfo& face : body.body.tessellation().faces)
            if (face.kind == SurfaceKind::Cylinder || face.kind == SurfaceKind::Plane)
                faces.emplace_back(face.area_mm2, place.linear() * face.direction);
    }
    std::stable_sort(faces.begin(), faces.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    for (const auto& [area, axis] : faces) add(axis);
    return ways;
}

bool beside(const Box3& a, const Box3& b, const Vec3& way) {
    // Seen along the way their boxes must overlap: boxes are looked at square to their axes only where the way is one.
    for (int k = 0; k < 3; ++k) {
        if (std::fabs(way[k]) > 0.01) continue;
        if (a.max()[k] < b.min()[k] || b.max()[k] < a.min()[k]) return true;
    }
    return false;
}

/// A piece of a way that is straight: where it begins, from the part's place; how far it goes.
struct Straight {
    Vec3 begins = Vec3::Zero(), way = Vec3::Zero();
    double length_mm = 1e30;
};

/// Rays graze edges: a few of thousands are no obstacle.
class Hits {
  public:
    explicit Hits(size_t rays) : grazed_(rays / 1000) {}
    /// Whether that was one too many.
    bool one_more() { return ++hits_ > grazed_; }

  private:
    size_t grazed_, hits_ = 0;
};

bool meets_on(const Piece& moving, const Piece& still, const Straight& leg, bool stiff) {
    Box3 box = moving.box;
    box.translate(leg.begins);
    const Vec3& way = leg.way;
    if (beside(box, still.box, way)) return false;
    // Behind it altogether.
    double behind = -1e300, front = 1e300;
    for (int c = 0; c < 8; ++c) {
        behind = std::max(behind, still.box.corner(Box3::CornerType(c)).dot(way));
        front = std::min(front, box.corner(Box3::CornerType(c)).dot(way));
    }
    if (behind < front) return false;
    const Hull &goes = stiff ? moving.without_hooks() : moving.whole,
               &stays = stiff ? still.without_hooks() : still.whole;
    Hits hits(goes.samples.size() + stays.samples.size());
    for (const Sample& s : goes.samples)
        if (s.out.dot(way) > leans_in &&
            stays.rays->cast(s.at + leg.begins + start_off_mm * way, way, 0, leg.length_mm) && hits.one_more())
            return true;
    for (const Sample& s : stays.samples)
        if (s.out.dot(way) < -leans_in &&
            goes.rays->cast(s.at - leg.begins - start_off_mm * way, -way, 0, leg.length_mm) && hits.one_more())
            return true;
    return false;
}

/// Whether a part on its way out meets another, either's surface looked at; `stiff`: what gives way left out.
bool meets_on_way(const Piece& moving, const Piece& still, const Way& way, bool stiff) {
    Straight straight;
    for (const Vec3& leg : way.legs) {
        straight.way = leg.normalized();
        straight.length_mm = leg.norm();
        if (meets_on(moving, still, straight, stiff)) return true;
        straight.begins += leg;
    }
    straight.way = way.on;
    straight.length_mm = 1e30;
    return meets_on(moving, still, straight, stiff);
}

bool has_kind(const Part& part, std::initializer_list<const char*> kinds) {
    return std::any_of(part.steps.begin(), part.steps.end(), [&](const Step& step) {
        return step.on && std::any_of(kinds.begin(), kinds.end(), [&](const char* k) { return step.kind == k; });
    });
}

/// Both have threads or locks: they turn into each other.
bool turn_together(const Piece& a, const Piece& b) {
    auto threaded = [](const Piece& p) { return has_kind(*p.part, {"thread", "lock_groove", "lock_lugs"}); };
    return threaded(a) && threaded(b);
}

std::string way_words(const Vec3& from) {
    static const std::pair<Vec3, const char*> ways[] = {
        {Vec3::UnitZ(), "from above"},     {-Vec3::UnitZ(), "from below"}, {Vec3::UnitX(), "from the right"},
        {-Vec3::UnitX(), "from the left"}, {Vec3::UnitY(), "from behind"}, {-Vec3::UnitY(), "from the front"}};
    for (const auto& [way, words] : ways)
        if (from.dot(way) > 0.999) return words;
    auto best = std::max_element(std::begin(ways), std::end(ways),
                                 [&](const auto& a, const auto& b) { return from.dot(a.first) < from.dot(b.first); });
    return std::string("askew, ") + best->second;
}

class Order {
  public:
    Order(const Evaluation& evaluation, const Analysis& analysis, const Task& task)
        : evaluation_(evaluation), analysis_(analysis), task_(task) {}

    Expected<std::vector<AssemblyMove>> run() {
        gather();
        std::vector<AssemblyMove> moves;
        for (const std::vector<size_t>& thing : things()) {
            auto its = order_of(thing);
            if (task_.stopped()) return cancelled();
            stand_apart(its);
            for (auto& [piece, move] : its) moves.push_back(std::move(move));
        }
        return moves;
    }

  private:
    using Ordered = std::vector<std::pair<size_t, AssemblyMove>>;

    void gather() {
        for (const PartResult& made : evaluation_.parts) {
            const PartPtr part = evaluation_.project->part(made.part);
            if (!part || !made.mesh || made.mesh->empty() || part->gauge) continue;
            Piece piece;
            piece.made = &made;
            piece.part = part;
            const Standing& standing = standing_of(evaluation_);
            piece.place = standing.of(made.part) * made.place;
            piece.mesh = mesh_where_it_stands(made, standing);
            piece.box = bounding_box(piece.mesh);
            piece.whole = hull_of(piece.mesh);
            if (const auto stiff = without_what_bends(made, piece.mesh)) piece.stiff = hull_of(*stiff);
            lead(piece);
            piece.room_mm3 = piece.box.volume();
            pieces_.push_back(std::move(piece));
            task_.tell("Looking at " + part->name, 0.3 * double(pieces_.size()) / double(evaluation_.parts.size()));
        }
    }

    /// Along its own way if it has one; else along any that may be free.
    void lead(Piece& piece) const {
        if (piece.part->way_out.empty()) {
            piece.ways = ways_of(*piece.made, piece.place);
            return;
        }
        auto legs = way_out(*piece.part, evaluation_.values, piece.made, piece.place);
        if (!legs || legs->empty()) {
            piece.no_way = legs ? "Its own way has no length." : legs.error().text();
            piece.ways = ways_of(*piece.made, piece.place);
            return;
        }
        Way way{legs->back().normalized(), std::move(*legs)};
        way.legs.pop_back();
        piece.ways = {std::move(way)};
    }

    /// Pieces that come near each other, the largest thing first.
    std::vector<std::vector<size_t>> things() const {
        std::vector<size_t> of(pieces_.size());
        std::iota(of.begin(), of.end(), size_t(0));
        auto root = [&](size_t i) {
            while (of[i] != i) i = of[i];
            return i;
        };
        std::map<PartId, size_t> number;
        for (size_t i = 0; i < pieces_.size(); ++i) number[pieces_[i].part->id] = i;
        for (const ContactResult& c : analysis_.contacts) {
            const auto a = number.find(c.part_a), b = number.find(c.part_b);
            if (c.gap && a != number.end() && b != number.end()) of[root(a->second)] = root(b->second);
        }
        std::map<size_t, std::vector<size_t>> groups;
        for (size_t i = 0; i < pieces_.size(); ++i) groups[root(i)].push_back(i);
        std::vector<std::vector<size_t>> all;
        for (auto& [first, members] : groups) all.push_back(members);
        std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.size() > b.size(); });
        return all;
    }

    /// Looked at once: parts stand where they stand.
    bool meets(size_t moving, size_t still, size_t way, bool stiff = false) const {
        const auto [found, fresh] = met_.try_emplace({moving, still, 2 * way + stiff}, false);
        if (fresh) found->second = meets_on_way(pieces_[moving], pieces_[still], pieces_[moving].ways[way], stiff);
        return found->second;
    }
    bool gives_way(size_t piece) const { return pieces_[piece].stiff.has_value(); }

    /// The pieces among `others` that are met on a way; `clicked`: those that hooks or clips are pushed past.
    std::vector<size_t> met(size_t moving, const std::vector<size_t>& others, size_t way, bool& turned,
                            std::vector<size_t>& clicked) const {
        std::vector<size_t> all;
        turned = false;
        clicked.clear();
        for (size_t other : others) {
            if (other == moving || !meets(moving, other, way)) continue;
            if (turn_together(pieces_[moving], pieces_[other]))
                turned = true;
            else if ((gives_way(moving) || gives_way(other)) && !meets(moving, other, way, true))
                clicked.push_back(other);
            else
                all.push_back(other);
        }
        return all;
    }

    bool stopped_for(size_t thing) const {
        for (const auto& part : analysis_.parts)
            for (const PartPause& pause : part->pauses)
                if (!pause.by_hand && pause.thing == pieces_[thing].part->name) return true;
        return false;
    }

    /// The best way in with `others` in place: free, else the one with the least in it.
    AssemblyMove move_of(size_t piece, const std::vector<size_t>& others) const {
        AssemblyMove move;
        move.part = pieces_[piece].part->id;
        move.name = pieces_[piece].part->name;
        move.no_way = pieces_[piece].no_way;
        if (others.empty()) return move;
        std::optional<size_t> least;
        for (size_t way = 0; way < pieces_[piece].ways.size(); ++way) {
            bool turned;
            std::vector<size_t> clicked;
            const auto blocked = met(piece, others, way, turned, clicked);
            if (least && blocked.size() >= *least) continue;
            least = blocked.size();
            move.from = pieces_[piece].ways[way].on;
            move.legs = pieces_[piece].ways[way].legs;
            move.turned_in = turned;
            move.in_the_way.clear();
            move.meets.clear();
            for (size_t other : clicked) move.meets.push_back("clicks into " + pieces_[other].part->name);
            for (size_t other : blocked) move.in_the_way.push_back(pieces_[other].part->name);
            if (blocked.empty()) break;
        }
        if (!move.in_the_way.empty() && stopped_for(piece)) {
            move.laid_in = true;
            move.in_the_way.clear();
        }
        for (const ContactResult& c : analysis_.contacts) {
            const PartId mine = move.part;
            const PartId other = c.part_a == mine ? c.part_b : c.part_b == mine ? c.part_a : PartId();
            if (c.part_a == c.part_b || !c.wanted) continue;
            if (std::any_of(others.begin(), others.end(), [&](size_t o) { return pieces_[o].part->id == other; }))
                move.meets.push_back(contact_title(c) + ", " + wanted_words(*evaluation_.project, c));
        }
        return move;
    }

    Ordered order_of(const std::vector<size_t>& thing) {
        std::vector<size_t> wanted;
        for (PartId id : evaluation_.project->assembly)
            for (size_t i : thing)
                if (pieces_[i].part->id == id) wanted.push_back(i);
        return wanted.empty() ? taken_apart(thing) : as_wanted(thing, wanted);
    }

    /// What is not named comes after what is.
    Ordered as_wanted(const std::vector<size_t>& thing, std::vector<size_t> wanted) {
        for (size_t i : thing)
            if (std::find(wanted.begin(), wanted.end(), i) == wanted.end()) wanted.push_back(i);
        Ordered moves;
        std::vector<size_t> there;
        for (size_t i : wanted) {
            if (task_.stopped()) return {};
            moves.emplace_back(i, move_of(i, there));
            there.push_back(i);
        }
        return moves;
    }

    Ordered taken_apart(const std::vector<size_t>& thing) {
        std::vector<size_t> left = thing;
        // Stand-ins come out before printed parts, small things before large ones.
        std::stable_sort(left.begin(), left.end(), [&](size_t a, size_t b) {
            const Piece &p = pieces_[a], &q = pieces_[b];
            if (p.part->stand_in != q.part->stand_in) return p.part->stand_in;
            return p.room_mm3 < q.room_mm3;
        });
        Ordered out;
        while (left.size() > 1) {
            if (task_.stopped()) return {};
            task_.tell("Taking it apart", 0.3 + 0.7 * double(out.size()) / double(thing.size()));
            size_t best = 0;
            std::optional<AssemblyMove> way;
            for (size_t k = 0; k < left.size(); ++k) {
                std::vector<size_t> others = left;
                others.erase(others.begin() + long(k));
                AssemblyMove move = move_of(left[k], others);
                // The free one; else the one with the least in its way, told as it is.
                if (!way || move.in_the_way.size() < way->in_the_way.size()) best = k, way = move;
                if (way->in_the_way.empty()) break;
            }
            out.emplace_back(left[best], *way);
            left.erase(left.begin() + long(best));
        }
        out.emplace_back(left[0], move_of(left[0], {}));
        std::reverse(out.begin(), out.end());
        return out;
    }

    /// Each so far back that its box is clear of all before it where they are drawn.
    void stand_apart(Ordered& moves) const {
        std::vector<Box3> drawn;
        for (auto& [piece, move] : moves) {
            Box3 box = pieces_[piece].box;
            for (const Vec3& leg : move.legs) box.translate(leg);
            if (!drawn.empty()) {
                double clear = 0, back = 1e300;
                for (int c = 0; c < 8; ++c) back = std::min(back, box.corner(Box3::CornerType(c)).dot(move.from));
                for (const Box3& other : drawn) {
                    if (beside(box, other, move.from)) continue;
                    for (int c = 0; c < 8; ++c)
                        clear = std::max(clear, other.corner(Box3::CornerType(c)).dot(move.from) - back);
                }
                move.apart_mm = clear > 0 ? clear + apart_more_mm : apart_more_mm;
            }
            drawn.push_back(box);
            drawn.back().translate(move.apart_mm * move.from);
        }
    }

    const Evaluation& evaluation_;
    const Analysis& analysis_;
    const Task& task_;
    std::vector<Piece> pieces_;
    mutable std::map<std::array<size_t, 3>, bool> met_;
};

} // namespace

Vec3 AssemblyMove::moved_by(double share) const {
    double length = apart_mm;
    for (const Vec3& leg : legs) length += leg.norm();
    double left = share * length;
    Vec3 by = Vec3::Zero();
    for (const Vec3& leg : legs) {
        const double its = leg.norm();
        if (left < its) return by + left / its * leg;
        by += leg;
        left -= its;
    }
    return by + left * from;
}

std::string AssemblyMove::words() const {
    if (from.isZero()) return "the first";
    std::string text = laid_in ? "laid in while it is printed" : way_words(from) + (turned_in ? ", turned in" : "");
    // The legs of its own way, as it comes in: the last one out is the first one in.
    constexpr size_t most_told = 4;
    for (size_t i = legs.size(); i-- > 0 && !laid_in && legs.size() <= most_told;)
        text += ", then " + format_quantity(legs[i].norm(), QuantityKind::Length, 1) + " " +
                way_words(legs[i].normalized());
    if (legs.size() > most_told && !laid_in) text += ", along its drawn line";
    if (!no_way.empty()) text += "; its own way is not gone: " + no_way;
    for (const std::string& one : meets) text += "; " + one;
    if (!in_the_way.empty())
        text += "; " + joined(in_the_way) + (in_the_way.size() == 1 ? " is" : " are") + " in its way";
    return text;
}

Expected<std::vector<AssemblyMove>> assembly_order(const Evaluation& evaluation, const Analysis& analysis,
                                                   const Task& task) {
    return Order(evaluation, analysis, task).run();
}

} // namespace lp
