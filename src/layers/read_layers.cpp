#include "layers/read_layers.h"
#include "base/tolerance.h"
#include "bed/bitmap.h"
#include "layers/laid_lines.h"
#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <numbers>

namespace lp {
namespace {

/// A stadium of a width about a line, in squares.
void draw(Bitmap& bitmap, const Vec2& a, const Vec2& b, double half, const Vec2& corner, double square) {
    const double low = std::min(a.y(), b.y()) - half, high = std::max(a.y(), b.y()) + half;
    const int y0 = int(std::floor((low - corner.y()) / square)), y1 = int(std::ceil((high - corner.y()) / square));
    const Vec2 way = b - a;
    const double length = way.norm();
    const Vec2 u = length > 0 ? Vec2(way / length) : Vec2(1, 0);
    for (int y = std::max(0, y0); y < std::min(bitmap.height(), y1); ++y) {
        const double cy = corner.y() + (y + 0.5) * square;
        double from = 1e300, to = -1e300;
        auto take = [&](double x0, double x1) {
            if (x0 > x1) return;
            from = std::min(from, x0);
            to = std::max(to, x1);
        };
        for (const Vec2& end : {a, b}) {
            const double off = cy - end.y(), in = half * half - off * off;
            if (in >= 0) take(end.x() - std::sqrt(in), end.x() + std::sqrt(in));
        }
        // Between the ends: |(p - a) x u| <= half and 0 <= (p - a) . u <= length, both linear in x.
        double x0 = -1e300, x1 = 1e300;
        auto clip = [&](double slope, double at, double least, double most) { // least <= slope x + at <= most
            if (std::fabs(slope) < 1e-12) {
                if (at < least || at > most) x0 = 1, x1 = 0;
                return;
            }
            const double p = (least - at) / slope, q = (most - at) / slope;
            x0 = std::max(x0, std::min(p, q));
            x1 = std::min(x1, std::max(p, q));
        };
        clip(u.y(), -a.x() * u.y() - (cy - a.y()) * u.x(), -half, half);
        clip(u.x(), -a.x() * u.x() + (cy - a.y()) * u.y(), 0, length);
        take(x0, x1);
        if (from > to) continue;
        bitmap.fill(y, int(std::lround((from - corner.x()) / square)), int(std::lround((to - corner.x()) / square)));
    }
}

/// Pieces of a bitmap joined over sides, found by the runs of its rows.
struct Piece {
    size_t squares = 0;
    Vec2 sum = Vec2::Zero();
    bool held = false;
};
std::vector<Piece> pieces_of(const Bitmap& shape, const Bitmap& held) {
    struct Run {
        int x0, x1;
        size_t piece;
    };
    std::vector<size_t> parent;
    std::vector<Piece> pieces;
    auto root = [&](size_t i) {
        while (parent[i] != i) i = parent[i] = parent[parent[i]];
        return i;
    };
    std::vector<Run> above, row;
    for (int y = 0; y < shape.height(); ++y) {
        row.clear();
        for (int x = 0; x < shape.width(); ++x) {
            if (!shape.get(x, y)) continue;
            const int x0 = x;
            bool touches = false;
            for (; x < shape.width() && shape.get(x, y); ++x) touches = touches || held.get(x, y);
            const size_t number = pieces.size();
            parent.push_back(number);
            pieces.push_back({size_t(x - x0), Vec2((x0 + x) / 2.0, y + 0.5) * double(x - x0), touches});
            row.push_back({x0, x, number});
        }
        for (const Run& a : above)
            for (const Run& b : row)
                if (a.x0 < b.x1 && b.x0 < a.x1) parent[root(a.piece)] = root(b.piece);
        std::swap(above, row);
    }
    std::map<size_t, Piece> whole;
    for (size_t i = 0; i < pieces.size(); ++i) {
        Piece& sum = whole[root(i)];
        sum.squares += pieces[i].squares;
        sum.sum += pieces[i].sum;
        sum.held = sum.held || pieces[i].held;
    }
    std::vector<Piece> all;
    for (const auto& [number, piece] : whole) all.push_back(piece);
    return all;
}

size_t beyond(const Bitmap& shape, const Bitmap& below) {
    size_t count = 0;
    for (int y = 0; y < shape.height(); ++y)
        for (int i = 0; i < shape.words(); ++i) count += size_t(std::popcount(shape.row(y)[i] & ~below.row(y)[i]));
    return count;
}

class LayerReader {
  public:
    LayerReader(const PrintPlan& plan, const ReadLayersOptions& options, const Task& task)
        : plan_(plan), options_(options), task_(task) {}

    Expected<ReadLayers> read() {
        if (auto wrong = gather()) return pass_on(*wrong);
        times();
        if (!areas()) return cancelled();
        result_.plan.filament_mm = plan_.filament_mm;
        const double r = options_.material.filament_mm / 2;
        result_.plan.mass_g = plan_.filament_mm * std::numbers::pi * r * r / 1000 * options_.material.density_g_cm3;
        result_.plan.price = result_.plan.mass_g / 1000 * options_.material.price_per_kg;
        return std::move(result_);
    }

  private:
    std::optional<Problem> gather() {
        auto laid = laid_by_height(plan_);
        if (!laid) return laid.error();
        layers_ = std::move(*laid);
        for (const auto& [key, lines] : layers_) {
            result_.lines += lines.size();
            for (const Laid& line : lines) {
                result_.box.extend(Vec3(double(line.from.x()), double(line.from.y()), double(line.from_z)));
                result_.box.extend(Vec3(double(line.to.x()), double(line.to.y()), double(line.to_z)));
            }
        }
        double below = 0;
        for (const auto& [key, lines] : layers_) {
            const double z = key / 1000.0;
            result_.plan.layers.push_back({below, std::max(z - below, 0.001), 0, 0, 0});
            below = z;
        }
        result_.plan.height_mm = below;
        size_t first_laid = 0;
        for (Eigen::Vector3f at = plan_.begin; first_laid < plan_.moves.size() && !lays(at, plan_.moves[first_laid]);)
            at = plan_.moves[first_laid++].to;
        for (size_t at : plan_.pauses) {
            if (at <= first_laid) continue; // nothing is interrupted
            float z = 0;                    // of the first line after it
            Eigen::Vector3f before = at > 0 ? plan_.moves[at - 1].to : plan_.begin;
            for (size_t i = at; i < plan_.moves.size() && z == 0; ++i) {
                if (lays(before, plan_.moves[i])) z = plan_.moves[i].to.z();
                before = plan_.moves[i].to;
            }
            if (z == 0) continue; // nothing comes after it
            const auto layer = size_t(std::distance(layers_.begin(), layers_.find(height_key(z))));
            result_.pauses.push_back({layer, result_.plan.layers[layer].z_mm});
        }
        return std::nullopt;
    }

    /// Lines that are laid one after the other are one chain; a way between them begins and ends at rest.
    void times() {
        double plain = plan_.waits_s, moving = plan_.waits_s;
        std::vector<Vec3> places;
        std::vector<double> speeds;
        bool laying = false;
        auto end_chain = [&] {
            moving += path_time(places, speeds, options_.motion);
            places.clear();
            speeds.clear();
        };
        Eigen::Vector3f from = plan_.begin;
        for (const PlanMove& move : plan_.moves) {
            const double way = double((move.to - from).norm());
            const double speed = move.speed_mm_s > 0 ? double(move.speed_mm_s) : slow_mm_s;
            if (way < double(least_way_mm)) { // filament alone
                const double t = std::fabs(double(move.extruded_mm)) / speed;
                plain += t;
                moving += t;
                end_chain();
            } else {
                plain += way / speed;
                if (laying != move.lays()) end_chain();
                laying = move.lays();
                if (places.empty()) places.push_back(from.cast<double>());
                places.push_back(move.to.cast<double>());
                speeds.push_back(speed);
            }
            from = move.to;
        }
        end_chain();
        result_.plan.time_s = plain;
        result_.time_motion_s = moving;
    }

    bool areas() {
        const double room = 3;
        const Vec2 size = result_.box.sizes().head<2>() + Vec2::Constant(2 * room);
        const double square = std::max(0.1, size.maxCoeff() / 3000);
        // Lines lie at round numbers: squares that do not are as often within as outside.
        const Vec2 corner = result_.box.min().head<2>() - Vec2::Constant(room + 0.37 * square);
        const int width = int(std::ceil(size.x() / square)), height = int(std::ceil(size.y() / square));
        Bitmap below;
        size_t k = 0;
        for (const auto& [key, lines] : layers_) {
            task_.tell("Looking at the layers", double(k) / double(layers_.size()));
            if (task_.stopped()) return false;
            Layer& layer = result_.plan.layers[k];
            Bitmap shape(width, height);
            for (const Laid& line : lines) {
                const double wide = laid_width_mm(line, layer.thickness_mm, options_.material.filament_mm);
                draw(shape, line.from.cast<double>(), line.to.cast<double>(), wide / 2, corner, square);
            }
            layer.area_mm2 = double(shape.count()) * square * square;
            if (k > 0) look_below(shape, below, k, square, corner);
            below = std::move(shape);
            ++k;
        }
        return true;
    }

    void look_below(const Bitmap& shape, const Bitmap& below, size_t k, double square, const Vec2& corner) {
        Layer& layer = result_.plan.layers[k];
        const double reach = layer.thickness_mm * std::tan(radians(std::min(options_.overhang_limit_deg, 85.0)));
        const int border = int(std::ceil(reach / square)) + 1;
        const Bitmap grown = grown_by(below, reach, square, border);
        Bitmap carries(shape.width(), shape.height());
        carries.add(grown, -border, -border);
        layer.unsupported_mm2 = double(beyond(shape, carries)) * square * square;
        if (layer.unsupported_mm2 == 0) return;
        constexpr double least_mm2 = 0.1;
        for (const Piece& piece : pieces_of(shape, carries)) {
            const double mm2 = double(piece.squares) * square * square;
            if (piece.held || mm2 < least_mm2) continue;
            const Vec2 middle = piece.sum / double(piece.squares);
            result_.plan.islands.push_back({k, layer.z_mm, mm2, corner + square * middle});
        }
    }

    static constexpr double slow_mm_s = 20; ///< where no speed was told yet
    const PrintPlan& plan_;
    const ReadLayersOptions& options_;
    const Task& task_;
    ReadLayers result_;
    std::map<int, std::vector<Laid>> layers_; ///< by height
};

} // namespace

Expected<ReadLayers> read_layers(const PrintPlan& plan, const ReadLayersOptions& options, const Task& task) {
    return LayerReader(plan, options, task).read();
}

} // namespace lp
