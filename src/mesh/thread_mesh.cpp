#include "mesh/thread_mesh.h"
#include "base/quantity.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace lp {
namespace {

using std::numbers::pi;

constexpr struct {
    ThreadProfile profile;
    const char* word;
} words[] = {{ThreadProfile::Sharp, "sharp"},
             {ThreadProfile::Round, "round"},
             {ThreadProfile::Trapezoid, "trapezoid"},
             {ThreadProfile::Buttress, "buttress"}};

/// Corners over one pitch: x along the axis, y above the root; the crest's middle lies at x = 0 for the even ones.
std::vector<Vec2> corners_of(ThreadProfile profile, double p) {
    auto flat = [&](double crest, double depth, double up_deg, double down_deg) {
        const double rise = depth * std::tan(radians(up_deg)), fall = depth * std::tan(radians(down_deg));
        return std::vector<Vec2>{
            {-crest / 2 - rise, 0}, {-crest / 2, depth}, {crest / 2, depth}, {crest / 2 + fall, 0}};
    };
    switch (profile) {
    case ThreadProfile::Sharp: // ISO 68-1: 5/8 H deep, H = P cos 30
        return flat(p / 8, 0.625 * std::cos(radians(30.0)) * p, 30, 30);
    case ThreadProfile::Trapezoid: // ISO 2904: half the pitch deep, crests of 0.366 P
        return flat(0.366025 * p, 0.5 * p, 15, 15);
    case ThreadProfile::Buttress: // half the pitch deep; below 45 degrees, so that it prints standing
        return flat((p - 0.5 * p * (1 + std::tan(radians(3.0)))) / 2, 0.5 * p, 45, 3);
    case ThreadProfile::Round:
        break;
    }
    // Arcs of radius P/4 tangent to flanks of 45 degrees.
    const double r = p / 4, depth = thread_depth(ThreadProfile::Round, p);
    constexpr int steps = 8; // to either side of a crest
    std::vector<Vec2> corners;
    for (int i = -steps; i <= steps; ++i) { // the root, turned over, then the crest
        const double a = pi / 4 * i / steps;
        corners.push_back({-p / 2 + r * std::sin(a), r * (1 - std::cos(a))});
    }
    for (int i = -steps; i <= steps; ++i) {
        const double a = pi / 4 * i / steps;
        corners.push_back({r * std::sin(a), depth - r * (1 - std::cos(a))});
    }
    return corners;
}

/// A profile repeated along the axis, straight between its corners.
struct Periodic {
    double pitch = 1;
    std::vector<Vec2> corners; ///< x ascending within less than a pitch
    double at(double x) const {
        const double turns = std::floor((x - corners[0].x()) / pitch), in = x - turns * pitch;
        for (size_t k = 0; k < corners.size(); ++k) {
            const Vec2 a = corners[k], b = next(k);
            if (in > b.x()) continue;
            return b.x() - a.x() < 1e-12 ? std::max(a.y(), b.y())
                                         : a.y() + (b.y() - a.y()) * (in - a.x()) / (b.x() - a.x());
        }
        return corners[0].y();
    }
    Vec2 next(size_t k) const {
        return k + 1 < corners.size() ? corners[k + 1] : Vec2(corners[0].x() + pitch, corners[0].y());
    }
    double lowest() const {
        return std::min_element(corners.begin(), corners.end(), [](auto& a, auto& b) { return a.y() < b.y(); })->y();
    }
    double highest() const {
        return std::max_element(corners.begin(), corners.end(), [](auto& a, auto& b) { return a.y() < b.y(); })->y();
    }
};

/// Every side moved by a gap along its normal, those that vanish left out. `squeeze`: how much shorter a way along the
/// axis is across the helix: gaps are measured square to the flank, which leans along its way.
Periodic moved(const Periodic& from, double by, double squeeze) {
    struct Side {
        Vec2 at, along;
    };
    std::vector<Side> sides;
    for (size_t k = 0; k < from.corners.size(); ++k) {
        Vec2 a = from.corners[k], b = from.next(k);
        a.x() *= squeeze, b.x() *= squeeze;
        const Vec2 along = (b - a).normalized(), out(-along.y(), along.x());
        sides.push_back({a + by * out, along});
    }
    const double pitch = from.pitch * squeeze;
    auto crossing = [&](size_t k) { // of a side with the one before
        Side before = sides[(k + sides.size() - 1) % sides.size()];
        if (k == 0) before.at.x() -= pitch;
        const Side& s = sides[k];
        const double det = before.along.x() * s.along.y() - before.along.y() * s.along.x();
        if (std::fabs(det) < 1e-9) return s.at;
        const Vec2 d = s.at - before.at;
        return Vec2(before.at + before.along * ((d.x() * s.along.y() - d.y() * s.along.x()) / det));
    };
    while (sides.size() > 2) {
        size_t gone = sides.size();
        double least = -1e-9;
        for (size_t k = 0; k < sides.size(); ++k) {
            const Vec2 a = crossing(k), b = k + 1 < sides.size() ? crossing(k + 1) : Vec2(crossing(0) + Vec2(pitch, 0));
            if (const double length = (b - a).dot(sides[k].along); length < least) least = length, gone = k;
        }
        if (gone == sides.size()) break;
        sides.erase(sides.begin() + std::ptrdiff_t(gone));
    }
    Periodic result{from.pitch, {}};
    for (size_t k = 0; k < sides.size(); ++k) result.corners.push_back({crossing(k).x() / squeeze, crossing(k).y()});
    return result;
}

class Carver {
  public:
    Carver(const ThreadShape& shape, const Periodic& profile) : s_(shape), profile_(profile) {
        const double r = s_.major_mm / 2 + std::fabs(s_.fit_mm);
        columns_ = std::clamp(4 * int(std::ceil(pi / std::acos(1 - std::min(0.5, s_.deviation_mm / r)) / 4)), 64, 720);
        low_ = -s_.growth_mm;
        high_ = s_.length_mm + s_.growth_mm;
        root_ = profile_.lowest();
        crest_ = profile_.highest();
        lead_in_ = std::min(crest_ - root_, (high_ - low_) / 2);
        // Where the cones begin at the ends: they move along their own normals.
        const double g = s_.growth_mm, root2 = std::numbers::sqrt2;
        begins_ = widens() ? crest_ - g + (root2 + 1) * g : root_ - g + (root2 - 1) * g;
    }

    TriMesh mesh() {
        std::vector<std::vector<Vec3>> columns;
        for (int i = 0; i <= columns_; ++i) columns.push_back(column(i));
        const size_t high = columns[0].size();
        TriMesh mesh;
        for (const auto& one : columns) mesh.vertices.insert(mesh.vertices.end(), one.begin(), one.end());
        auto at = [&](int i, size_t k) { return uint32_t(size_t(i) * high + k); };
        auto add = [&](uint32_t a, uint32_t b, uint32_t c) {
            if (s_.inside) std::swap(b, c);
            mesh.triangles.push_back({a, b, c});
        };
        for (int i = 0; i < columns_; ++i)
            for (size_t k = 0; k + 1 < high; ++k) {
                if (s_.left_hand) { // the mirror image, diagonals and all
                    add(at(i, k), at(i + 1, k), at(i, k + 1));
                    add(at(i + 1, k), at(i + 1, k + 1), at(i, k + 1));
                    continue;
                }
                add(at(i, k), at(i + 1, k), at(i + 1, k + 1));
                add(at(i, k), at(i + 1, k + 1), at(i, k + 1));
            }
        s_.inside ? add_ring(mesh, columns) : add_ends(mesh, columns);
        return without_flat(welded(mesh));
    }
    double lead_in() const { return lead_in_; }

  private:
    /// Places up a line at an angle: where the profile has its corners there, those past an end at the end. Their
    /// heights in order change steadily from one angle to the next, so that columns join one by one.
    std::vector<Vec3> column(int i) const {
        const bool again = i == columns_; // the first once more, a lead higher up
        const double angle = again ? 0 : 2 * pi * i / columns_, lead = s_.pitch_mm * s_.starts,
                     shift = again ? 0 : (s_.left_hand ? -1 : 1) * lead * i / columns_;
        const int by = again ? (s_.left_hand ? -s_.starts : s_.starts) : 0;
        const int turns = int(std::ceil(high_ / s_.pitch_mm)) + s_.starts + 2;
        constexpr int levels = 10; // where cones and flanks meet
        std::vector<double> heights;
        for (int k = 0; k <= levels; ++k) {
            heights.push_back(low_ + lead_in_ * k / levels);
            heights.push_back(high_ - lead_in_ * k / levels);
        }
        for (int j = int(std::floor(low_ / s_.pitch_mm)) - s_.starts - 2; j <= turns; ++j)
            for (const Vec2& corner : profile_.corners)
                heights.push_back(std::clamp(corner.x() + s_.pitch_mm * (j + by) + shift, low_, high_));
        for (double& z : heights) // what only rounding tells apart is one place
            if (z > low_ && z < high_) z = std::clamp(std::round(z * 1e6) / 1e6, low_, high_);
        std::sort(heights.begin(), heights.end());
        std::vector<Vec3> places;
        for (double z : heights) {
            const double r = radius(z, shift);
            places.push_back({r * std::cos(angle), r * std::sin(angle), z});
        }
        return places;
    }

    /// At either end a cone of 45 degrees, towards air: an outside thread begins at its root, an inside one opens.
    double radius(double z, double shift) const {
        const double from_end = std::min(z - low_, high_ - z), drawn = profile_.at(z - shift);
        return widens() ? std::max(drawn, begins_ - from_end) : std::min(drawn, begins_ + from_end);
    }
    bool widens() const { return s_.inside || s_.mouths; }

    void add_ends(TriMesh& mesh, const std::vector<std::vector<Vec3>>& columns) const {
        const auto low = uint32_t(mesh.vertices.size());
        mesh.vertices.push_back({0, 0, low_});
        mesh.vertices.push_back({0, 0, high_});
        const auto high = uint32_t(columns[0].size());
        for (int i = 0; i < columns_; ++i) {
            const uint32_t a = uint32_t(i) * high, b = a + high;
            mesh.triangles.push_back({low, b, a});
            mesh.triangles.push_back({low + 1, a + high - 1, b + high - 1});
        }
    }

    /// The ring's outside and its two ends.
    void add_ring(TriMesh& mesh, const std::vector<std::vector<Vec3>>& columns) const {
        const auto first = uint32_t(mesh.vertices.size()), high = uint32_t(columns[0].size());
        const double r = crest_ + s_.wall_mm;
        for (int i = 0; i <= columns_; ++i) {
            const double angle = i == columns_ ? 0 : 2 * pi * i / columns_;
            for (double z : {low_, high_}) mesh.vertices.push_back({r * std::cos(angle), r * std::sin(angle), z});
        }
        for (int i = 0; i < columns_; ++i) {
            const uint32_t a = first + 2 * uint32_t(i), b = a + 2, c = uint32_t(i) * high, d = c + high;
            mesh.triangles.push_back({a, b, b + 1});
            mesh.triangles.push_back({a, b + 1, a + 1});
            mesh.triangles.push_back({c, d, b});
            mesh.triangles.push_back({c, b, a});
            mesh.triangles.push_back({c + high - 1, a + 1, b + 1});
            mesh.triangles.push_back({c + high - 1, b + 1, d + high - 1});
        }
    }

    static TriMesh without_flat(TriMesh mesh) {
        std::erase_if(mesh.triangles, [](const Triangle& t) { return t[0] == t[1] || t[1] == t[2] || t[2] == t[0]; });
        return mesh;
    }

    const ThreadShape& s_;
    const Periodic& profile_;
    int columns_ = 64;
    double low_ = 0, high_ = 0; ///< its ends
    double root_ = 0, crest_ = 0, lead_in_ = 0, begins_ = 0;
};

double largest_overhang(const TriMesh& mesh) {
    double least = 0; // of the normals' upward share
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const Vec3 area = mesh.area_vector(i);
        if (std::max({mesh.corner(i, 0).z(), mesh.corner(i, 1).z(), mesh.corner(i, 2).z()}) < 1e-6) continue;
        if (area.norm() > 1e-6) least = std::min(least, area.z() / area.norm());
    }
    return degrees(std::asin(std::clamp(-least, 0.0, 1.0)));
}

std::optional<Problem> check(const ThreadShape& s) {
    auto wrong = [](const std::string& sentence, const std::string& advice) {
        return Problem{ProblemCode::Range, sentence, advice};
    };
    auto mm = [](double value) { return format_quantity(value, QuantityKind::Length); };
    if (!(s.major_mm > 0.5 && s.major_mm < 2000) || !(s.pitch_mm > 0.05 && s.pitch_mm < 500))
        return wrong("No thread has such a diameter and pitch.",
                     "Use 0.5 to 2000 mm across and a pitch of 0.05 mm or more.");
    if (!(s.length_mm > 0.1 && s.length_mm < 2000)) return wrong("A thread is 0.1 to 2000 mm long.", "Use 20 mm.");
    if (s.starts < 1 || s.starts > 20) return wrong("A thread has 1 to 20 starts.", "Use 1.");
    if (!(std::fabs(s.fit_mm) <= s.pitch_mm) || !(std::fabs(s.growth_mm) < 0.45 * s.length_mm))
        return wrong("The fit is larger than the pitch.", "Use 0.1 to 0.4 mm.");
    if (s.inside && !(s.wall_mm > 0.05 && s.wall_mm < 1000)) return wrong("A ring needs a wall.", "Use 3 mm.");
    const double depth = thread_depth(s.profile, s.pitch_mm);
    if (depth + std::max(0.0, s.inside ? 0.0 : s.fit_mm) > 0.48 * s.major_mm)
        return wrong("A thread of pitch " + mm(s.pitch_mm) + " is " + mm(depth) + " deep: nothing would be left of " +
                         mm(s.major_mm) + ".",
                     "Use a finer pitch or a larger diameter.");
    if (s.pitch_mm * s.starts > 2 * pi * s.major_mm)
        return wrong("It would climb steeper than a slope of 60 degrees.", "Use fewer starts.");
    return std::nullopt;
}

} // namespace

const char* word_of(ThreadProfile profile) {
    for (const auto& row : words)
        if (row.profile == profile) return row.word;
    return "";
}

std::optional<ThreadProfile> thread_profile_called(const std::string& word) {
    for (const auto& row : words)
        if (word == row.word) return row.profile;
    return std::nullopt;
}

double thread_depth(ThreadProfile profile, double p) {
    // Round: the sharp teeth of 45 degrees are P/2 high, each rounding takes R (sqrt 2 - 1) of that.
    if (profile == ThreadProfile::Round) return p / 2 - 2 * (p / 4) * (std::numbers::sqrt2 - 1);
    return profile == ThreadProfile::Sharp ? 0.625 * std::cos(radians(30.0)) * p : 0.5 * p;
}

Expected<Thread> make_thread(const ThreadShape& shape) {
    if (auto wrong = check(shape)) return pass_on(*wrong);
    Periodic profile{shape.pitch_mm, corners_of(shape.profile, shape.pitch_mm)};
    const double depth = thread_depth(shape.profile, shape.pitch_mm), lead = shape.pitch_mm * shape.starts,
                 middle = shape.major_mm / 2 - depth / 2;
    for (Vec2& corner : profile.corners) corner.y() += shape.major_mm / 2 - depth;
    const double squeeze = std::cos(std::atan2(lead, 2 * pi * middle));
    profile = moved(profile, (shape.inside ? shape.fit_mm : -shape.fit_mm) + (shape.inside ? -1 : 1) * shape.growth_mm,
                    squeeze);
    if (profile.corners.size() < 2 || !(profile.lowest() > 0.05) || !(profile.highest() - profile.lowest() > 1e-3))
        return problem(ProblemCode::Range, "With this fit nothing is left of the thread.", "Use a smaller fit.");
    Carver carver(shape, profile);
    Thread thread;
    if (shape.length_mm / shape.pitch_mm * double(profile.corners.size()) > 20000)
        return problem(ProblemCode::Range, "Such a thread has too many turns.", "Use a coarser pitch.");
    thread.mesh = carver.mesh();
    thread.major_mm = 2 * profile.highest();
    thread.minor_mm = 2 * profile.lowest();
    thread.turns = shape.length_mm / lead;
    thread.largest_overhang_deg = largest_overhang(thread.mesh);
    thread.lead_in_mm = carver.lead_in();
    return thread;
}

} // namespace lp
