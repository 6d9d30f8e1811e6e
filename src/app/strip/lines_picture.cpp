#include "app/strip/lines_picture.h"
#include "app/theme/theme.h"
#pragma push_macro("emit") // one of Qt, a name in the next header
#undef emit
#include <tbb/parallel_for.h>
#pragma pop_macro("emit")

namespace lp {

using theme::Role;

namespace {

QColor mixed(const QColor& a, const QColor& b, double share) {
    auto part = [&](int x, int y) { return int(std::lround(x + (y - x) * share)); };
    return {part(a.red(), b.red()), part(a.green(), b.green()), part(a.blue(), b.blue())};
}

/// Lengths of what is drawn and what is left out, in pixels; empty: all is drawn.
std::vector<double> dashes(Qt::PenStyle style) {
    switch (style) {
    case Qt::DotLine:
        return {1, 3};
    case Qt::DashLine:
        return {5, 4};
    case Qt::DashDotLine:
        return {5, 3, 1, 3};
    default:
        return {};
    }
}

class StrokeMaker {
  public:
    static constexpr double all_s = 1e17; ///< from here on everything of a layer is laid

    explicit StrokeMaker(const LinesShown& shown) : shown_(shown) {}

    void layer(size_t number, double until_s, bool pale) {
        const LayerLines& lines = shown_.lines->layers[number];
        if (until_s >= all_s) {
            for (const PlannedLine& planned : lines.lines) line(lines, planned, 1, pale);
            return;
        }
        const std::vector<double> at = laid_at(lines);
        for (size_t i = 0; i < lines.lines.size() && at[i] < until_s; ++i) {
            const double takes = at[i + 1] - at[i];
            line(lines, lines.lines[i], takes > 0 ? (until_s - at[i]) / takes : 1, pale);
        }
    }
    /// What lies on nothing and is laid.
    void loose(double until_s) {
        const std::vector<double> at = laid_at(shown_.lines->layers[shown_.layer]);
        constexpr float half_px = 1.25F;
        for (const LooseRun& run : shown_.lines->loose[shown_.layer]) {
            if (at[run.line + 1] > until_s + 1e-9) continue;
            for (size_t i = 1; i < run.path.size(); ++i)
                stroke(shown_.to_pixel(run.path[i - 1]), shown_.to_pixel(run.path[i]), half_px, shown_.hanging.rgb());
        }
    }
    std::vector<Stroke> take() { return std::move(strokes_); }

  private:
    /// The places of a line in pixels, as far as a share of its length.
    void places_of(const LayerLines& lines, const PlannedLine& line, double share) {
        places_.clear();
        const uint32_t n = line.count + (line.closed ? 1 : 0);
        double left = share >= 1 ? 1e18 : lines.length_mm(line) * share;
        for (uint32_t i = 0; i < n; ++i) {
            const Vec2& p = lines.places[line.first + i % line.count];
            if (i > 0) {
                const Vec2& before = lines.places[line.first + i - 1];
                const double step = (p - before).norm();
                if (step > left) {
                    places_.push_back(shown_.to_pixel(before + (p - before) * (left / step)));
                    return;
                }
                left -= step;
            }
            places_.push_back(shown_.to_pixel(p));
        }
    }

    void line(const LayerLines& lines, const PlannedLine& line, double share, bool pale) {
        constexpr double told_from_px = 5; // narrower lines have no room for a pattern
        constexpr double seam = 0.94;      // what is left between neighbours tells them apart
        constexpr double paleness = 0.75;
        places_of(lines, line, share);
        const LineLook& look = shown_.looks[size_t(line.kind)];
        const QRgb colour = (pale ? mixed(look.colour, shown_.paper, paleness) : look.colour).rgb();
        const double width_px = double(line.width_mm) * shown_.scale;
        constexpr double seen_px = 0.4; // nobody sees shorter ones: fine curves are thousands of them
        for (size_t from = 0, i = 1; i < places_.size(); ++i) {
            if (i + 1 < places_.size() && (places_[i] - places_[from]).manhattanLength() < seen_px) continue;
            stroke(places_[from], places_[i], float(width_px * seam / 2), colour);
            from = i;
        }
        if (look.middle != Qt::NoPen && !pale && width_px >= told_from_px) middle(look.middle);
    }

    /// The pattern along the middle of the line in hand.
    void middle(Qt::PenStyle style) {
        constexpr float half_px = 0.5F;
        const std::vector<double> pattern = dashes(style);
        if (pattern.empty()) {
            for (size_t i = 1; i < places_.size(); ++i) stroke(places_[i - 1], places_[i], half_px, shown_.ink.rgb());
            return;
        }
        size_t k = 0;
        double left = pattern[0];
        for (size_t i = 1; i < places_.size(); ++i) {
            const QPointF a = places_[i - 1], way = places_[i] - a;
            const double length = std::hypot(way.x(), way.y());
            if (!(length < 1e5) || !(length > 0)) continue; // far out of the picture: too many dashes to count
            for (double done = 0; done < length;) {
                const double next = std::min(length, done + left);
                if (k % 2 == 0) stroke(a + way * (done / length), a + way * (next / length), half_px, shown_.ink.rgb());
                left -= next - done;
                done = next;
                if (left > 1e-9) continue;
                k = (k + 1) % pattern.size();
                left = pattern[k];
            }
        }
    }

    void stroke(const QPointF& a, const QPointF& b, float half, QRgb colour) {
        const double reach = double(half) + 1;
        if (std::max(a.x(), b.x()) < -reach || std::min(a.x(), b.x()) > shown_.size.width() + reach ||
            std::max(a.y(), b.y()) < -reach || std::min(a.y(), b.y()) > shown_.size.height() + reach)
            return;
        strokes_.push_back({float(a.x()), float(a.y()), float(b.x()), float(b.y()), half, colour});
    }

    const LinesShown& shown_;
    std::vector<QPointF> places_;
    std::vector<Stroke> strokes_;
};

} // namespace

std::vector<double> laid_at(const LayerLines& layer) {
    std::vector<double> at{0};
    for (const PlannedLine& line : layer.lines)
        at.push_back(at.back() + layer.length_mm(line) / std::max(1.0, double(line.speed_mm_s)));
    return at;
}

LineLook look_of(LineKind kind, const QColor& filament) {
    const QColor ink = theme::colour(Role::Ink), paper = theme::colour(Role::ViewTop);
    switch (kind) {
    case LineKind::OuterWall:
        return {mixed(filament, ink, 0.35)};
    case LineKind::InnerWall:
        return {filament, Qt::SolidLine};
    case LineKind::Gap:
        return {mixed(filament, ink, 0.35), Qt::DotLine};
    case LineKind::Solid:
        return {mixed(filament, paper, 0.35)};
    case LineKind::Bridge:
        return {mixed(filament, paper, 0.35), Qt::DashLine};
    case LineKind::Sparse:
        return {mixed(filament, paper, 0.6)};
    case LineKind::Read:
        return {filament, Qt::SolidLine};
    case LineKind::Support:
        break;
    }
    return {theme::colour(Role::LayerSupport), Qt::DashDotLine};
}

LinesShown::LinesShown(std::shared_ptr<const PartLines> its_lines, const QColor& filament)
    : lines(std::move(its_lines)), paper(theme::colour(Role::ViewTop)), ink(theme::colour(Role::Ink)),
      hanging(theme::colour(Role::Hanging)) {
    for (size_t k = 0; k < line_kinds; ++k) looks[k] = look_of(LineKind(k), filament);
}

QPointF LinesShown::to_pixel(const Vec2& place) const {
    return {size.width() / 2.0 + (place.x() - middle.x()) * scale,
            size.height() / 2.0 - (place.y() - middle.y()) * scale};
}

Vec2 LinesShown::to_place(const QPointF& pixel) const {
    return {middle.x() + (pixel.x() - size.width() / 2.0) / scale,
            middle.y() - (pixel.y() - size.height() / 2.0) / scale};
}

std::vector<Stroke> strokes_of(const LinesShown& shown) {
    if (!shown.lines || shown.layer >= shown.lines->layers.size()) return {};
    // Each layer by itself, on every core; then in their order.
    const size_t lowest = shown.layer - std::min(shown.layer, shown.below);
    std::vector<std::vector<Stroke>> layers(shown.layer - lowest + 1);
    tbb::parallel_for(size_t(0), layers.size(), [&](size_t k) {
        StrokeMaker maker(shown);
        const bool top = lowest + k == shown.layer;
        maker.layer(lowest + k, top ? shown.laid_s : 2 * StrokeMaker::all_s, !top);
        if (top) maker.loose(shown.laid_s);
        layers[k] = maker.take();
    });
    size_t count = 0;
    for (const auto& layer : layers) count += layer.size();
    std::vector<Stroke> all;
    all.reserve(count);
    for (const auto& layer : layers) all.insert(all.end(), layer.begin(), layer.end());
    return all;
}

QImage picture_of(const LinesShown& shown) {
    return picture_of(strokes_of(shown), shown.size, shown.paper.rgb());
}

} // namespace lp
