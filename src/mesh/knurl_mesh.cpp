#include "mesh/knurl_mesh.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace lp {
namespace {

constexpr int steps_a_period = 4; ///< of the grid; crests and grooves run along its diagonals

class Knurl {
  public:
    explicit Knurl(const KnurlShape& shape) : shape_(shape) {}

    Expected<TriMesh> run() {
        const double period = shape_.apart_mm * std::numbers::sqrt2; // along and across, from crest to crest
        const double length = shape_.high.y() - shape_.low.y(),
                     across = shape_.round ? 2 * std::numbers::pi * shape_.radius_mm : shape_.high.x() - shape_.low.x();
        if (!(length >= period / 2) || !(across >= period))
            return problem(ProblemCode::Range, "Not one row of the pattern goes onto that face.",
                           "Put the rows closer, or narrow the margin.");
        const int periods =
            std::max(shape_.round ? 3 : 1, int(std::floor(across / period + (shape_.round ? 0.5 : 1e-9))));
        columns_ = periods * steps_a_period;
        // All round a whole number of periods goes; the rows keep their distance along.
        step_across_ = shape_.round ? across / columns_ : period / steps_a_period;
        rows_ = std::max(2, int(std::lround(length / period * steps_a_period)));
        step_along_ = length / rows_;
        if (double(columns_) * rows_ * 4 > 1e6)
            return problem(ProblemCode::Range, "That pattern has too many pyramids.", "Put the rows farther apart.");
        from_ = shape_.round ? 0 : (shape_.low.x() + shape_.high.x()) / 2 - columns_ * step_across_ / 2;
        surface();
        base();
        return std::move(mesh_);
    }

  private:
    int stored_columns() const { return shape_.round ? columns_ : columns_ + 1; }
    /// Height over the face in steps of the grid from its corner.
    double height(double column, double row) const {
        constexpr double quarter = steps_a_period / 2.0; // grooves cross every half period along a diagonal
        auto from_groove = [&](double x) {
            const double part = x / steps_a_period - std::floor(x / steps_a_period);
            return std::min(part, 1 - part); // of the distance between grooves, at most a half
        };
        const double s = from_groove(column + row + quarter), t = from_groove(column - row + quarter);
        const double tan = std::tan(radians(shape_.slope_deg)), end = std::min(row, rows_ - row) * step_along_;
        double h = std::min({shape_.high_mm, std::min(s, t) * shape_.apart_mm * tan, end * tan});
        if (!shape_.round) h = std::min(h, std::min(column, columns_ - column) * step_across_ * tan);
        return h;
    }
    Vec3 place(double column, double row, double out) const {
        const double z = shape_.low.y() + row * step_along_;
        if (!shape_.round) return {from_ + column * step_across_, out, z};
        const double angle = column * step_across_ / shape_.radius_mm,
                     r = shape_.radius_mm + (shape_.hollow ? -out : out);
        return {r * std::cos(angle), r * std::sin(angle), z};
    }
    uint32_t add(const Vec3& p) {
        mesh_.vertices.push_back(p);
        return uint32_t(mesh_.vertices.size() - 1);
    }
    double surface_out(double column, double row) const {
        const double stands_out = shape_.growth_mm / std::cos(radians(shape_.slope_deg)), h = height(column, row);
        return shape_.cut ? std::min(-h + stands_out, 0.9 * shape_.base_mm) : h + stands_out;
    }
    uint32_t node(int column, int row) const {
        return uint32_t(row * stored_columns() + (shape_.round ? column % columns_ : column));
    }
    void put(uint32_t a, uint32_t b, uint32_t c) {
        if (flipped())
            mesh_.triangles.push_back({a, c, b});
        else
            mesh_.triangles.push_back({a, b, c});
    }
    /// Whether what looks out of the face in the grid's own sense looks into the body.
    bool flipped() const {
        const bool grid_out = shape_.round && !shape_.hollow; // x turned round to y, z up: outward
        return grid_out == shape_.cut;
    }
    void surface() {
        for (int row = 0; row <= rows_; ++row)
            for (int column = 0; column < stored_columns(); ++column) add(place(column, row, surface_out(column, row)));
        for (int row = 0; row < rows_; ++row)
            for (int column = 0; column < columns_; ++column) {
                const uint32_t a = node(column, row), b = node(column + 1, row), c = node(column + 1, row + 1),
                               d = node(column, row + 1),
                               m = add(place(column + 0.5, row + 0.5, surface_out(column + 0.5, row + 0.5)));
                put(a, b, m);
                put(b, c, m);
                put(c, d, m);
                put(d, a, m);
            }
    }
    /// The other side, and what joins it to the first.
    void base() {
        const double out = shape_.cut ? shape_.base_mm : -shape_.base_mm;
        const auto first = uint32_t(mesh_.vertices.size());
        for (int end = 0; end < 2; ++end)
            for (int column = 0; column < stored_columns(); ++column) add(place(column, end ? rows_ : 0, out));
        auto below = [&](int column, int end) {
            return first + uint32_t(end * stored_columns() + (shape_.round ? column % columns_ : column));
        };
        for (int column = 0; column < columns_; ++column) {
            put(below(column, 0), below(column + 1, 1), below(column + 1, 0));
            put(below(column, 0), below(column, 1), below(column + 1, 1));
            const uint32_t low_a = node(column, 0), low_b = node(column + 1, 0), high_a = node(column, rows_),
                           high_b = node(column + 1, rows_);
            put(low_a, below(column, 0), below(column + 1, 0));
            put(low_a, below(column + 1, 0), low_b);
            put(high_a, high_b, below(column + 1, 1));
            put(high_a, below(column + 1, 1), below(column, 1));
        }
        if (shape_.round) return;
        for (int side = 0; side < 2; ++side) {
            const int column = side ? columns_ : 0;
            auto wall = [&](uint32_t a, uint32_t b, uint32_t c) { side ? put(a, b, c) : put(a, c, b); };
            for (int row = 0; row < rows_; ++row) wall(node(column, row), below(column, 0), node(column, row + 1));
            wall(node(column, rows_), below(column, 0), below(column, 1));
        }
    }

    const KnurlShape& shape_;
    int columns_ = 0, rows_ = 0;
    double step_across_ = 0, step_along_ = 0, from_ = 0;
    TriMesh mesh_;
};

} // namespace

Expected<TriMesh> knurl_mesh(const KnurlShape& shape) {
    return Knurl(shape).run();
}

} // namespace lp
