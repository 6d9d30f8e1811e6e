#include "bed/brim.h"
#include "base/tolerance.h"
#include "bed/flat_body.h"
#include <numbers>

namespace lp {
namespace {

constexpr struct {
    BrimPlace place;
    const char* word;
} places[] = {{BrimPlace::Outside, "outside"},
              {BrimPlace::Inside, "inside"},
              {BrimPlace::Both, "both"},
              {BrimPlace::Corners, "corners"}};

/// What lies on the bed.
Region first_layer(const TriMesh& posed, double layer_mm, const Task& task) {
    if (posed.empty() || !(layer_mm > 0)) return {};
    std::vector<Region> layers = slice(posed, {layer_mm, layer_mm}, bounding_box(posed).min().z(), 1, task);
    return layers.empty() || task.stopped() ? Region() : std::move(layers.front());
}

Region without_holes(const Region& region) {
    Region outer;
    for (const ClipperLib::Path& path : region)
        if (ClipperLib::Orientation(path)) outer.push_back(path);
    return unite_regions(outer, {});
}

std::vector<Vec2> corners_of(const Region& outer) {
    constexpr double side_mm = 3, turn_deg = 40, round_mm = 1;
    std::vector<Vec2> corners;
    for (const ClipperLib::Path& path : outer) {
        ClipperLib::Path line;
        ClipperLib::CleanPolygon(path, line, 0.01 * clipper_grid);
        const size_t n = line.size();
        auto at = [&](size_t i) -> Vec2 { return Vec2(double(line[i % n].X), double(line[i % n].Y)) / clipper_grid; };
        for (size_t i = 0; i < n; ++i) {
            // A corner rounded by about a line's width is one still: its few short sides are passed over.
            size_t j = i;
            while (j < i + n && (at(j + 1) - at(i)).norm() < round_mm) ++j;
            const Vec2 in = at(i) - at(i + n - 1), out = at(j + 1) - at(j);
            if (in.norm() < side_mm || out.norm() < side_mm) continue;
            const double turned = std::atan2(in.x() * out.y() - in.y() * out.x(), in.dot(out));
            if (degrees(turned) > turn_deg) corners.push_back((at(i) + at(j)) / 2);
        }
    }
    return corners;
}

Region discs(const std::vector<Vec2>& middles, double radius_mm) {
    constexpr int sides = 48;
    Region all;
    for (const Vec2& middle : middles) {
        ClipperLib::Path disc;
        for (int k = 0; k < sides; ++k) {
            const double angle = 2 * std::numbers::pi * k / sides;
            const Vec2 p = (middle + radius_mm * Vec2(std::cos(angle), std::sin(angle))) * clipper_grid;
            disc.emplace_back(ClipperLib::cInt(std::llround(p.x())), ClipperLib::cInt(std::llround(p.y())));
        }
        all.push_back(std::move(disc));
    }
    return unite_regions(all, {});
}

} // namespace

const char* word_of(BrimPlace place) {
    for (const auto& row : places)
        if (row.place == place) return row.word;
    return "";
}

std::optional<BrimPlace> brim_place_called(const std::string& word) {
    for (const auto& row : places)
        if (word == row.word) return row.place;
    return std::nullopt;
}

TriMesh make_brim(const TriMesh& posed, const Brim& brim, double layer_mm, const Task& task) {
    if (!(brim.width_mm > 0)) return {};
    const Region material = first_layer(posed, layer_mm, task);
    if (material.empty()) return {};
    const Region outer = without_holes(material);
    auto grown = [](const Region& region, double by) { return by == 0 ? region : offset_region(region, by); };
    const double far = brim.gap_mm + brim.width_mm;
    Region border;
    if (brim.place == BrimPlace::Outside || brim.place == BrimPlace::Both)
        border = subtract_regions(grown(outer, far), grown(outer, brim.gap_mm));
    if (brim.place == BrimPlace::Corners)
        border = subtract_regions(discs(corners_of(outer), far), grown(outer, brim.gap_mm));
    if (brim.place == BrimPlace::Inside || brim.place == BrimPlace::Both) {
        const Region holes = subtract_regions(outer, material);
        const Region within = subtract_regions(holes, grown(holes, -far));
        border = unite_regions(border, subtract_regions(within, grown(material, brim.gap_mm)));
    }
    return flat_body(border, 0, layer_mm);
}

std::vector<Vec2> sharp_corners(const TriMesh& posed, double layer_mm, const Task& task) {
    return corners_of(without_holes(first_layer(posed, layer_mm, task)));
}

} // namespace lp
