#include "bed/arrange.h"
#include "base/quantity.h"
#include "bed/bitmap.h"
#include <algorithm>
#include <map>
#include <memory>
#include <numeric>
#include <random>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

/// The corners round the shadow of a mesh, counter-clockwise (A. M. Andrew's monotone chain, 1979).
std::vector<Vec2> hull_from_above(const TriMesh& mesh) {
    std::vector<Vec2> points, hull;
    for (const Vec3& v : mesh.vertices) points.push_back(v.head<2>());
    std::sort(points.begin(), points.end(),
              [](const Vec2& a, const Vec2& b) { return std::pair(a.x(), a.y()) < std::pair(b.x(), b.y()); });
    for (int way = 0; way < 2; ++way) {
        const size_t begin = hull.size();
        for (const Vec2& p : points) {
            while (hull.size() >= begin + 2) {
                const Vec2 a = hull[hull.size() - 1] - hull[hull.size() - 2], b = p - hull[hull.size() - 2];
                if (a.x() * b.y() - a.y() * b.x() > 0) break;
                hull.pop_back();
            }
            hull.push_back(p);
        }
        hull.pop_back();
        std::reverse(points.begin(), points.end());
    }
    return hull;
}

/// The turn, 0 to 90 degrees, after which the box round the shadow is the smallest.
double turn_to_smallest_box(const TriMesh& mesh) {
    const std::vector<Vec2> hull = hull_from_above(mesh);
    double best = 0, least = std::numeric_limits<double>::infinity();
    auto area_turned = [&](double turn) {
        const Eigen::Rotation2Dd rotation(turn);
        Eigen::AlignedBox2d box;
        for (const Vec2& p : hull) box.extend(rotation * p);
        return box.volume();
    };
    if (!hull.empty()) least = area_turned(0) * (1 - 1e-6); // another turn must gain something
    for (size_t i = 0; i < hull.size(); ++i) {
        const Vec2 side = hull[(i + 1) % hull.size()] - hull[i];
        if (side.norm() < 1e-3) continue;
        double turn = std::fmod(-std::atan2(side.y(), side.x()) + 2 * std::numbers::pi, std::numbers::pi / 2);
        if (const double area = area_turned(turn); area < least) least = area, best = turn;
    }
    return degrees(best);
}

/// A thing turned one way, as squares.
struct Shape {
    double turn_deg = 0;
    Bitmap solid, grown; ///< with its brim; and by the spacing beyond it
    Vec2 middle;         ///< of its box, from the corner of `solid`, mm
    size_t squares = 0;
};

class Layout {
  public:
    Layout(const std::vector<ArrangeItem>& items, const ArrangeOptions& options, const Task& task)
        : items_(items), options_(options), task_(task), square_(items.size() <= 12    ? 0.25
                                                                 : items.size() <= 100 ? 0.5
                                                                                       : 1.0) {
        square_ = std::max(square_, options.bed_mm.maxCoeff() / 1024);
        width_ = int(options.bed_mm.x() / square_ + 1e-6);
        height_ = int(options.bed_mm.y() / square_ + 1e-6);
        spacing_border_ = int(std::ceil(options.spacing_mm / square_)) + 1;
    }

    Arranged find() {
        Arranged result;
        result.spots.resize(items_.size());
        put_locked(result);
        std::vector<std::pair<std::string, std::vector<size_t>>> groups; // in the order in which they were given
        for (size_t i = 0; i < items_.size(); ++i) {
            if (items_[i].locked) continue;
            auto at =
                std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.first == items_[i].group; });
            if (at == groups.end()) at = groups.insert(groups.end(), {items_[i].group, {}});
            at->second.push_back(i);
        }
        size_t done = 0;
        for (auto& [group, members] : groups) {
            task_.tell("Arranging", double(done) / double(items_.size()));
            done += members.size();
            arrange_group(group, members, result);
        }
        finish(result);
        return result;
    }

  private:
    struct Bed {
        std::optional<std::string> group; ///< none: nothing stands there
        Bitmap taken;
        std::shared_ptr<const FreePlaces> free;
        size_t squares = 0; ///< of what stands there
        bool locked = false;
        bool tall = false; ///< something stands there that the head cannot pass over
    };
    struct Try {
        std::vector<Bed> beds;
        std::map<size_t, BedSpot> spots;
        double last_top_mm = 0; ///< how far back the fullest of the last bed reaches
        size_t new_beds = 0;
    };

    Shape shape_of(const ArrangeItem& item, double turn_deg) const {
        Shape shape;
        shape.turn_deg = turn_deg;
        const Transform turn(Eigen::AngleAxisd(radians(turn_deg), Vec3::UnitZ()));
        Eigen::AlignedBox2d box;
        for (const Vec3& v : item.posed->vertices) box.extend(Vec2((turn * v).head<2>()));
        const Vec2 size = box.sizes();
        const int w = std::max(1, int(std::ceil(size.x() / square_ - 1e-4))),
                  h = std::max(1, int(std::ceil(size.y() / square_ - 1e-4)));
        shape.middle = size / 2;
        if (w > width_ || h > height_) return shape; // it does not fit: no squares
        shape.solid = shadow_of(*item.posed, turn, box.min(), w, h, square_);
        if (item.brim_mm > 0) {
            const int border = int(std::ceil(item.brim_mm / square_ - 1e-6));
            shape.solid = grown_by(shape.solid, item.brim_mm, square_, border);
            shape.middle += Vec2::Constant(border * square_);
        }
        shape.grown = grown_by(shape.solid, options_.spacing_mm, square_, spacing_border_);
        shape.squares = shape.solid.count();
        return shape;
    }

    /// As it may be turned, without turns that come to the same.
    const std::vector<Shape>& shapes_of(size_t item) {
        auto [at, fresh] = shapes_.try_emplace({items_[item].posed, items_[item].brim_mm});
        std::vector<Shape>& shapes = at->second;
        if (!fresh) return shapes;
        std::vector<double> turns{0};
        if (options_.turning) {
            const double box = turn_to_smallest_box(*items_[item].posed);
            for (double first : {0.0, box, 45.0})
                for (int k = 0; k < 4; ++k) {
                    const double turn = std::fmod(first + 90 * k, 360);
                    if (std::none_of(turns.begin(), turns.end(), [&](double t) { return std::fabs(t - turn) < 0.01; }))
                        turns.push_back(turn);
                }
        }
        std::vector<Shape> all(turns.size());
        tbb::parallel_for(size_t(0), turns.size(), [&](size_t i) { all[i] = shape_of(items_[item], turns[i]); });
        for (Shape& shape : all) {
            const bool known = std::any_of(shapes.begin(), shapes.end(),
                                           [&](const Shape& other) { return other.solid == shape.solid; });
            if (shape.squares > 0 && shape.solid.width() <= width_ && shape.solid.height() <= height_ && !known)
                shapes.push_back(std::move(shape));
        }
        // What fits neither straight nor slanting may fit in between, across the bed.
        for (int turn = 5; shapes.empty() && options_.turning && turn < 180; turn += 5) {
            Shape shape = shape_of(items_[item], turn);
            if (shape.squares > 0 && shape.solid.width() <= width_ && shape.solid.height() <= height_)
                shapes.push_back(std::move(shape));
        }
        return shapes;
    }

    Bed& bed_at(std::vector<Bed>& beds, size_t number) const {
        while (beds.size() <= number) beds.push_back({{}, Bitmap(width_, height_), nullptr, 0, false, false});
        return beds[number];
    }
    static void stand(Bed& bed, const Bitmap& grown, int x, int y, size_t squares) {
        bed.taken.add(grown, x, y);
        bed.squares += squares;
        bed.free = nullptr;
    }

    void put_locked(Arranged& result) {
        for (size_t i = 0; i < items_.size(); ++i) {
            if (!items_[i].locked) continue;
            const BedSpot& spot = *items_[i].locked;
            result.spots[i] = spot;
            Bed& bed = bed_at(beds_, spot.bed);
            if (!bed.group) bed.group = items_[i].group;
            bed.locked = true;
            bed.tall = bed.tall || is_tall(i);
            // Where it is, square by square, also past the border.
            const int border = spacing_border_ + int(std::ceil(items_[i].brim_mm / square_));
            const Vec2 corner = Vec2::Constant(-border * square_);
            const Bitmap shadow = shadow_of(*items_[i].posed, placed_at(*items_[i].posed, spot), corner,
                                            width_ + 2 * border, height_ + 2 * border, square_);
            const Bitmap grown = grown_by(shadow, options_.spacing_mm + items_[i].brim_mm, square_, border);
            stand(bed, grown, -2 * border, -2 * border, shadow.count());
        }
    }

    bool is_tall(size_t item) const { return height_of(*items_[item].posed) > options_.passes_over_mm; }

    bool put(size_t item, Bed& bed, size_t number, Try& attempt) {
        const bool tall = is_tall(item);
        if (tall && bed.tall) return false;
        const std::vector<Shape>& shapes = shapes_of(item);
        if (!bed.free) bed.free = std::make_shared<FreePlaces>(bed.taken);
        std::vector<std::optional<FreePlaces::Place>> found(shapes.size());
        tbb::parallel_for(size_t(0), shapes.size(), [&](size_t k) { found[k] = bed.free->first_for(shapes[k].solid); });
        const Shape* best = nullptr;
        FreePlaces::Place place{};
        auto reach = [](const Shape& s, const FreePlaces::Place& p) {
            return std::pair(p.y + s.solid.height(), p.x + s.solid.width());
        };
        for (size_t k = 0; k < shapes.size(); ++k)
            if (found[k] && (!best || reach(shapes[k], *found[k]) < reach(*best, place)))
                best = &shapes[k], place = *found[k];
        if (!best) return false;
        stand(bed, best->grown, place.x - spacing_border_, place.y - spacing_border_, best->squares);
        bed.group = items_[item].group;
        bed.tall = bed.tall || tall;
        attempt.spots[item] = {number, best->middle + square_ * Vec2(place.x, place.y), best->turn_deg};
        attempt.last_top_mm = std::max(attempt.last_top_mm, double(reach(*best, place).first) * square_);
        return true;
    }

    Try attempt(const std::string& group, const std::vector<size_t>& order) {
        Try attempt{beds_, {}, 0, 0};
        for (size_t item : order) {
            if (task_.stopped()) break;
            bool stands = false;
            for (size_t b = 0; b < attempt.beds.size() && !stands; ++b)
                if (attempt.beds[b].group == group) stands = put(item, attempt.beds[b], b, attempt);
            for (size_t b = 0; !stands; ++b) { // the next empty one
                if (bed_at(attempt.beds, b).group) continue;
                ++attempt.new_beds;
                attempt.last_top_mm = 0;
                stands = put(item, attempt.beds[b], b, attempt);
                break;
            }
        }
        return attempt;
    }

    void arrange_group(const std::string& group, std::vector<size_t> members, Arranged& result) {
        std::erase_if(members, [&](size_t i) { return shapes_of(i).empty(); }); // too large: left out
        if (members.empty()) return;
        auto squares = [&](size_t i) { return shapes_of(i).front().squares; };
        auto longest = [&](size_t i) {
            const Bitmap& solid = shapes_of(i).front().solid;
            return std::max(solid.width(), solid.height());
        };
        const size_t all = std::accumulate(members.begin(), members.end(), size_t(0),
                                           [&](size_t sum, size_t i) { return sum + squares(i); });
        const size_t whole_bed = size_t(width_) * size_t(height_), fewest = (all + whole_bed - 1) / whole_bed;
        std::optional<Try> best;
        std::mt19937 random(5489); // the same layout every time
        const size_t tries = std::clamp<size_t>(240 / members.size(), 2, 12);
        for (size_t k = 0; k < tries && !task_.stopped(); ++k) {
            if (k == 0) // what takes most room first: then what is longest, then by chance
                std::stable_sort(members.begin(), members.end(),
                                 [&](size_t a, size_t b) { return squares(a) > squares(b); });
            else if (k == 1)
                std::stable_sort(members.begin(), members.end(),
                                 [&](size_t a, size_t b) { return longest(a) > longest(b); });
            else
                std::shuffle(members.begin(), members.end(), random);
            Try next = attempt(group, members);
            if (!best || std::pair(next.new_beds, next.last_top_mm) < std::pair(best->new_beds, best->last_top_mm))
                best = std::move(next);
            if (k >= 1 && best->new_beds <= fewest) break;
        }
        if (!best) return;
        beds_ = std::move(best->beds);
        for (const auto& [item, spot] : best->spots) result.spots[item] = spot;
    }

    /// To the middle of each bed, and how full it is.
    void finish(Arranged& result) const {
        result.beds = beds_.size();
        std::vector<Eigen::AlignedBox2d> used(beds_.size());
        for (size_t i = 0; i < items_.size(); ++i) {
            if (!result.spots[i]) continue;
            const Transform place = placed_at(*items_[i].posed, *result.spots[i]);
            for (const Vec3& v : items_[i].posed->vertices)
                for (double brim : {-items_[i].brim_mm, items_[i].brim_mm})
                    used[result.spots[i]->bed].extend(Vec2((place * v).head<2>() + Vec2::Constant(brim)));
        }
        for (size_t b = 0; b < beds_.size(); ++b)
            result.used_share.push_back(double(beds_[b].squares) / (double(width_) * double(height_)));
        for (auto& spot : result.spots)
            if (spot && !beds_[spot->bed].locked) spot->at += options_.bed_mm / 2 - used[spot->bed].center();
    }

    const std::vector<ArrangeItem>& items_;
    const ArrangeOptions& options_;
    const Task& task_;
    double square_;
    int width_, height_, spacing_border_;
    std::map<std::pair<const TriMesh*, double>, std::vector<Shape>> shapes_;
    std::vector<Bed> beds_;
};

} // namespace

Transform placed_at(const TriMesh& posed, const BedSpot& spot) {
    const Transform turn(Eigen::AngleAxisd(radians(spot.turn_deg), Vec3::UnitZ()));
    Box3 box;
    for (const Vec3& v : posed.vertices) box.extend(turn * v);
    if (box.isEmpty()) return turn;
    const Vec3 to(spot.at.x() - box.center().x(), spot.at.y() - box.center().y(), -box.min().z());
    return Eigen::Translation3d(to) * turn;
}

double height_of(const TriMesh& posed) {
    return posed.vertices.empty() ? 0 : bounding_box(posed).sizes().z();
}

std::vector<bool> standing_in_another(const std::vector<ArrangeItem>& items, const Vec2& bed_mm, const Task& task,
                                      double apart_mm) {
    const double square = std::max(0.5, bed_mm.maxCoeff() / 1024), border = 40;
    const Vec2 corner = Vec2::Constant(-border);
    const int width = int((bed_mm.x() + 2 * border) / square), height = int((bed_mm.y() + 2 * border) / square);
    std::vector<Bitmap> shadows(items.size());
    tbb::parallel_for(size_t(0), items.size(), [&](size_t i) {
        if (items[i].locked && !task.stopped())
            shadows[i] =
                shadow_of(*items[i].posed, placed_at(*items[i].posed, *items[i].locked), corner, width, height, square);
    });
    std::vector<Bitmap> grown(apart_mm > 0 ? items.size() : 0);
    const int reach = int(std::ceil(apart_mm / square));
    if (apart_mm > 0)
        tbb::parallel_for(size_t(0), items.size(), [&](size_t i) {
            if (shadows[i].count() == 0 || task.stopped()) return;
            grown[i] = Bitmap(width, height);
            grown[i].add(grown_by(shadows[i], apart_mm, square, reach), -reach, -reach);
        });
    const std::vector<Bitmap>& wider = apart_mm > 0 ? grown : shadows;
    std::vector<bool> within(items.size(), false);
    for (size_t i = 0; i < items.size(); ++i)
        for (size_t j = i + 1; j < items.size() && !task.stopped(); ++j) {
            if (!items[i].locked || !items[j].locked || items[i].locked->bed != items[j].locked->bed) continue;
            if (wider[i].shares_a_patch(shadows[j])) within[i] = within[j] = true;
        }
    return within;
}

Expected<Arranged> arrange(const std::vector<ArrangeItem>& items, const ArrangeOptions& options, const Task& task) {
    if (!(options.bed_mm.minCoeff() >= 5 && options.bed_mm.maxCoeff() <= 5000))
        return problem(ProblemCode::Range, "The bed has no sides between 5 mm and 5 m.", "Give its width and depth.");
    if (!(options.spacing_mm >= 0 && options.spacing_mm <= 500))
        return problem(ProblemCode::Range, "The spacing is 0 to 500 mm.", "Use 3 mm.");
    constexpr size_t most_items = 2000;
    if (items.size() > most_items)
        return problem(ProblemCode::Range, "More than " + std::to_string(most_items) + " things are to be arranged.",
                       "Take fewer at a time.");
    for (const ArrangeItem& item : items)
        if (!(item.brim_mm >= 0 && item.brim_mm <= 100))
            return problem(ProblemCode::Range, "A brim is 0 to 100 mm wide.", "Use 6 mm.");
    Layout layout(items, options, task);
    Arranged found = layout.find();
    if (task.stopped()) return cancelled();
    return found;
}

} // namespace lp
