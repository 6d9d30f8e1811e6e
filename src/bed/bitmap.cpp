#include "bed/bitmap.h"
#include <bit>
#include <cmath>

namespace lp {
namespace {

/// row |= other >> by, bits moved towards lower places.
void or_shifted_down(uint64_t* row, const uint64_t* other, int words, int by) {
    const int whole = by / 64, part = by % 64;
    for (int i = 0; i + whole < words; ++i) {
        uint64_t bits = other[i + whole] >> part;
        if (part && i + whole + 1 < words) bits |= other[i + whole + 1] << (64 - part);
        row[i] |= bits;
    }
}

/// What a triangle covers between two heights.
std::pair<double, double> extent_between(const std::array<Vec2, 3>& t, double low, double high) {
    double least = std::numeric_limits<double>::infinity(), most = -least;
    auto take = [&](double x) {
        least = std::min(least, x);
        most = std::max(most, x);
    };
    for (size_t k = 0; k < 3; ++k) {
        const Vec2 &a = t[k], &b = t[(k + 1) % 3];
        if (a.y() >= low && a.y() <= high) take(a.x());
        for (double y : {low, high})
            if ((a.y() < y) != (b.y() < y)) take(a.x() + (b.x() - a.x()) * (y - a.y()) / (b.y() - a.y()));
    }
    return {least, most};
}

} // namespace

void Bitmap::fill(int y, int x0, int x1) {
    if (y < 0 || y >= height_) return;
    x0 = std::max(x0, 0);
    x1 = std::min(x1, width_);
    for (int x = x0; x < x1;) {
        const int word = x / 64, from = x % 64, to = std::min(64, from + x1 - x);
        const uint64_t mask = (to == 64 ? ~0ull : (1ull << to) - 1) & ~((1ull << from) - 1);
        row(y)[word] |= mask;
        x += to - from;
    }
}

void Bitmap::add(const Bitmap& other, int x, int y) {
    for (int j = std::max(0, -y); j < other.height_ && y + j < height_; ++j) {
        const uint64_t* from = other.row(j);
        uint64_t* to = row(y + j);
        for (int i = 0; i < other.words_; ++i) {
            if (!from[i]) continue;
            const int at = x + 64 * i; // of its lowest bit; may lie before the left border
            const int word = at >= 0 ? at / 64 : -((63 - at) / 64), part = at - 64 * word;
            if (word >= 0 && word < words_) to[word] |= from[i] << part;
            if (part && word + 1 >= 0 && word + 1 < words_) to[word + 1] |= from[i] >> (64 - part);
        }
        if (width_ % 64) to[words_ - 1] &= (1ull << (width_ % 64)) - 1;
    }
}

size_t Bitmap::count() const {
    size_t n = 0;
    for (uint64_t word : bits_) n += size_t(std::popcount(word));
    return n;
}

bool Bitmap::shares_a_patch(const Bitmap& other) const {
    std::array<std::vector<uint64_t>, 3> wide; // of the last rows: three in both from there on
    for (auto& row : wide) row.assign(size_t(words_), 0);
    std::vector<uint64_t> both(static_cast<size_t>(words_));
    for (int y = 0; y < std::min(height_, other.height_); ++y) {
        auto& now = wide[size_t(y % 3)];
        for (int i = 0; i < std::min(words_, other.words_); ++i) both[size_t(i)] = row(y)[i] & other.row(y)[i];
        auto ahead = [&](int i, int by) {
            const uint64_t beyond = i + 1 < words_ ? both[size_t(i + 1)] : 0;
            return both[size_t(i)] >> by | beyond << (64 - by);
        };
        bool all = false;
        for (int i = 0; i < words_; ++i) {
            now[size_t(i)] = both[size_t(i)] & ahead(i, 1) & ahead(i, 2);
            all = all || (wide[0][size_t(i)] & wide[1][size_t(i)] & wide[2][size_t(i)]);
        }
        if (all && y >= 2) return true;
    }
    return false;
}

Bitmap shadow_of(const TriMesh& mesh, const Transform& place, const Vec2& corner, int width, int height,
                 double square_mm) {
    constexpr double slack = 1e-4; // of a square: a border that lies on a line of the grid covers nothing beyond it
    Bitmap shadow(width, height);
    std::vector<Vec2> flat;
    flat.reserve(mesh.vertices.size());
    for (const Vec3& v : mesh.vertices) flat.push_back(((place * v).head<2>() - corner) / square_mm);
    for (const Triangle& triangle : mesh.triangles) {
        const std::array<Vec2, 3> t{flat[triangle[0]], flat[triangle[1]], flat[triangle[2]]};
        const double low = std::min({t[0].y(), t[1].y(), t[2].y()}), high = std::max({t[0].y(), t[1].y(), t[2].y()});
        const int first = std::max(0, int(std::floor(low + slack))),
                  last = std::min(height, int(std::ceil(high - slack)));
        for (int y = first; y < last; ++y) {
            const auto [least, most] = extent_between(t, std::max<double>(y, low), std::min<double>(y + 1, high));
            if (least <= most) shadow.fill(y, int(std::floor(least + slack)), int(std::ceil(most - slack)));
        }
    }
    return shadow;
}

Bitmap grown_by(const Bitmap& shape, double by_mm, double square_mm, int border) {
    Bitmap grown(shape.width() + 2 * border, shape.height() + 2 * border);
    for (int dy = -border; dy <= border; ++dy) {
        // Squares with k between them are k squares apart.
        const double up = std::max(0, std::abs(dy) - 1) * square_mm, left = by_mm * by_mm - up * up;
        if (left <= 1e-9) continue;
        const int reach = std::min(border, int(std::ceil((std::sqrt(left) - 1e-6) / square_mm)));
        Bitmap wide(shape.width() + 2 * border, 1);
        for (int y = 0; y < shape.height(); ++y) {
            const uint64_t* row = shape.row(y);
            for (int x = 0; x < shape.width();) { // runs
                if (!(row[x / 64] >> (x % 64))) {
                    x = (x / 64 + 1) * 64;
                    continue;
                }
                if (!shape.get(x, y)) {
                    ++x;
                    continue;
                }
                int end = x;
                while (end < shape.width() && shape.get(end, y)) ++end;
                grown.fill(y + dy + border, x + border - reach, end + border + reach);
                x = end;
            }
        }
    }
    grown.add(shape, border, border);
    return grown;
}

FreePlaces::FreePlaces(const Bitmap& taken) : width_(taken.width()), height_(taken.height()), words_(taken.words()) {
    levels_.push_back(taken);
    for (int step = 1; 2 * step <= width_; step *= 2) {
        Bitmap next = levels_.back();
        for (int y = 0; y < height_; ++y) or_shifted_down(next.row(y), levels_.back().row(y), words_, step);
        levels_.push_back(std::move(next));
    }
}

void FreePlaces::blocked(int y, int length, std::vector<uint64_t>& row, int shift) const {
    const int level = std::bit_width(unsigned(length)) - 1;
    const uint64_t* ahead = levels_[size_t(level)].row(y);
    or_shifted_down(row.data(), ahead, words_, shift);
    if (const int rest = length - (1 << level); rest > 0) or_shifted_down(row.data(), ahead, words_, shift + rest);
}

std::optional<FreePlaces::Place> FreePlaces::first_for(const Bitmap& shape) const {
    if (shape.width() > width_ || shape.height() > height_) return std::nullopt;
    struct Run {
        int y, x, length;
    };
    std::vector<Run> runs;
    for (int y = 0; y < shape.height(); ++y)
        for (int x = 0; x < shape.width(); ++x) {
            if (!shape.get(x, y)) continue;
            const int begin = x;
            while (x < shape.width() && shape.get(x, y)) ++x;
            runs.push_back({y, begin, x - begin});
        }
    // The widest first: most places are refused by it alone.
    std::sort(runs.begin(), runs.end(), [](const Run& a, const Run& b) { return a.length > b.length; });
    const int places = width_ - shape.width() + 1;
    std::vector<uint64_t> row;
    for (int y = 0; y + shape.height() <= height_; ++y) {
        row.assign(size_t(words_), 0);
        for (int x = places; x < 64 * words_; ++x) row[size_t(x / 64)] |= 1ull << (x % 64);
        bool full = false;
        for (size_t i = 0; i < runs.size() && !full; ++i) {
            blocked(y + runs[i].y, runs[i].length, row, runs[i].x);
            if (i % 4 != 3) continue;
            full = std::all_of(row.begin(), row.end(), [](uint64_t word) { return word == ~0ull; });
        }
        for (int i = 0; i < words_ && !full; ++i)
            if (~row[size_t(i)]) return Place{64 * i + std::countr_one(row[size_t(i)]), y};
    }
    return std::nullopt;
}

} // namespace lp
