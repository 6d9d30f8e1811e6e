// A flat shape as bits: squares of a grid, rows of machine words.
#pragma once
#include "shape/tri_mesh.h"
#include <cstdint>

namespace lp {

class Bitmap {
  public:
    Bitmap() = default;
    Bitmap(int width, int height)
        : width_(width), height_(height), words_((width + 63) / 64), bits_(size_t(words_) * size_t(height), 0) {}
    int width() const { return width_; }
    int height() const { return height_; }
    int words() const { return words_; }
    uint64_t* row(int y) { return bits_.data() + size_t(y) * size_t(words_); }
    const uint64_t* row(int y) const { return bits_.data() + size_t(y) * size_t(words_); }
    bool get(int x, int y) const { return row(y)[x / 64] >> (x % 64) & 1; }
    /// Sets x0 up to x1, without x1; outside the bitmap nothing.
    void fill(int y, int x0, int x1);
    /// Sets what is set in another one, moved by x and y; outside nothing.
    void add(const Bitmap& other, int x, int y);
    size_t count() const;
    /// Whether some three by three squares are set in both: outlines that only touch share less.
    bool shares_a_patch(const Bitmap& other) const;
    bool operator==(const Bitmap&) const = default;

  private:
    int width_ = 0, height_ = 0, words_ = 0;
    std::vector<uint64_t> bits_;
};

/// Every square that a facet of the mesh covers a part of, seen from above. The square (0, 0) begins at `corner`.
Bitmap shadow_of(const TriMesh& mesh, const Transform& place, const Vec2& corner, int width, int height,
                 double square_mm);
/// Grown on all sides by `border` squares, within which every square nearer than `by_mm` to a set one is set: two
/// shapes are at least that far apart when one touches nothing of the other one grown.
Bitmap grown_by(const Bitmap& shape, double by_mm, double square_mm, int border);

/// Where a shape may stand among what is set already.
class FreePlaces {
  public:
    explicit FreePlaces(const Bitmap& taken);
    struct Place {
        int x, y;
    };
    /// The nearest to the front, of those the leftmost; none when it fits nowhere.
    std::optional<Place> first_for(const Bitmap& shape) const;

  private:
    /// Bits set where any of the `length` squares from there on is taken.
    void blocked(int y, int length, std::vector<uint64_t>& row, int shift) const;

    int width_, height_, words_;
    std::vector<Bitmap> levels_; ///< level k looks 2^k squares ahead
};

} // namespace lp
