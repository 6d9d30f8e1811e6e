#include "app/strip/strokes.h"
#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#undef emit // a macro of Qt, a name in the next header
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr float soft = 0.5F;      // half of the width of an edge
constexpr float covered = 0.996F; // what lies below is not seen any more
constexpr int word = 64;          // pixels of a row in one mask

/// What all rows of a stroke ask for.
struct Way {
    explicit Way(const Stroke& s) : dx(s.bx - s.ax), dy(s.by - s.ay) {
        const float square = dx * dx + dy * dy, length = std::sqrt(square);
        inverse = square > 0 ? 1 / square : 0;
        level = length < 1e-6F || std::fabs(dy) < 1e-6F;
        if (length > 0) {
            nx = dx / length;
            ny = dy / length;
        }
    }
    float dx, dy, inverse = 0;
    float nx = 0, ny = 0; ///< of its length
    bool level = true;
};

/// Some rows of the picture. Strokes are laid from the top one down: what is covered costs nothing.
class Rows {
  public:
    Rows(int first, int count, int width) : first_(first), count_(count), width_(width) {
        pixels_.resize(size_t(count) * size_t(width));
        words_ = (width + word - 1) / word;
        open_.assign(size_t(count) * size_t(words_), ~uint64_t(0));
        if (width % word) // the last word may be narrower
            for (int y = 0; y < count; ++y)
                open_[size_t(y + 1) * size_t(words_) - 1] = (uint64_t(1) << (width % word)) - 1;
    }

    void lay(const Stroke& s) {
        const float reach = s.half + soft;
        const float top = std::min(s.ay, s.by) - reach, low = std::max(s.ay, s.by) + reach;
        const float end = float(first_ + count_);
        if (!(low > float(first_)) || !(top < end)) return;
        const int from = std::max(first_, int(std::floor(std::max(top, float(first_)))));
        const int to = std::min(first_ + count_ - 1, int(std::ceil(std::min(low, end))));
        const float left = std::min(s.ax, s.bx) - reach, right = std::max(s.ax, s.bx) + reach;
        if (!(right > 0) || !(left < float(width_))) return;
        const int first_word = int(std::max(0.0F, left)) / word,
                  last_word = std::min(words_ - 1, int(std::min(right, float(width_))) / word);
        const Way way(s);
        for (int y = from; y <= to; ++y) {
            // Most strokes of a pile of layers lie under others, and are done with here.
            const uint64_t* open = &open_[size_t(y - first_) * size_t(words_)];
            uint64_t any = 0;
            for (int k = first_word; k <= last_word; ++k) any |= open[k];
            if (any) lay_in_row(s, way, reach, y);
        }
    }

    void write(QImage& image, QRgb ground) const {
        const std::array<float, 3> g{float(qRed(ground)), float(qGreen(ground)), float(qBlue(ground))};
        for (int y = 0; y < count_; ++y) {
            auto* line = reinterpret_cast<QRgb*>(image.scanLine(first_ + y));
            const Pixel* p = &pixels_[size_t(y) * size_t(width_)];
            for (int x = 0; x < width_; ++x, ++p) {
                const float rest = 1 - p->alpha;
                line[x] = qRgb(int(p->r + rest * g[0] + 0.5F), int(p->g + rest * g[1] + 0.5F),
                               int(p->b + rest * g[2] + 0.5F));
            }
        }
    }

  private:
    struct Pixel {
        float r = 0, g = 0, b = 0, alpha = 0;
    };

    /// Where a row's middle line meets the stroke with its soft edge: it is convex, so one stretch.
    static std::pair<float, float> stretch(const Stroke& s, const Way& way, float reach, float y) {
        float low = 1e30F, high = -1e30F;
        auto take = [&](float x) {
            low = std::min(low, x);
            high = std::max(high, x);
        };
        for (auto [cx, cy] : {std::pair(s.ax, s.ay), std::pair(s.bx, s.by)})
            if (const float d = y - cy, left = reach * reach - d * d; left > 0) {
                take(cx - std::sqrt(left));
                take(cx + std::sqrt(left));
            }
        if (way.level) return {low, high}; // its ends' discs tell
        for (float side : {-reach, reach}) {
            const float t = (y - s.ay - way.nx * side) / way.dy;
            if (t >= 0 && t <= 1) take(s.ax - way.ny * side + t * way.dx);
        }
        return {low, high};
    }

    void lay_in_row(const Stroke& s, const Way& way, float reach, int row) {
        const float y = float(row) + 0.5F;
        const auto [low, high] = stretch(s, way, reach, y);
        if (!(high > 0) || !(low < float(width_))) return;
        const int from = int(std::max(0.0F, std::floor(low - 0.5F)));
        const int to = int(std::min(float(width_ - 1), std::ceil(high)));
        uint64_t* open = &open_[size_t(row - first_) * size_t(words_)];
        Pixel* p = &pixels_[size_t(row - first_) * size_t(width_)];
        for (int k = from / word; k <= to / word; ++k) {
            const int begin = k * word;
            uint64_t mine = open[k];
            if (from > begin) mine &= ~uint64_t(0) << (from - begin);
            if (to < begin + word - 1) mine &= ~uint64_t(0) >> (begin + word - 1 - to);
            for (; mine; mine &= mine - 1) {
                const int bit = std::countr_zero(mine);
                if (tint(p[begin + bit], s, way, reach, float(begin + bit) + 0.5F - s.ax, y - s.ay))
                    open[k] &= ~(uint64_t(1) << bit);
            }
        }
    }

    /// A pixel whose middle lies there from the stroke's begin; whether it is covered now.
    static bool tint(Pixel& p, const Stroke& s, const Way& way, float reach, float px, float py) {
        const float t = std::clamp((px * way.dx + py * way.dy) * way.inverse, 0.0F, 1.0F);
        const float ex = px - t * way.dx, ey = py - t * way.dy, d2 = ex * ex + ey * ey;
        if (d2 >= reach * reach) return false;
        const float inner = std::max(0.0F, s.half - soft);
        const float most = std::min(1.0F, 2 * s.half); // finer than a pixel: paler
        const float share = (d2 <= inner * inner ? most : std::min(reach - std::sqrt(d2), most)) * (1 - p.alpha);
        p.r += share * float(qRed(s.colour));
        p.g += share * float(qGreen(s.colour));
        p.b += share * float(qBlue(s.colour));
        p.alpha += share;
        return p.alpha > covered;
    }

    int first_, count_, width_;
    std::vector<Pixel> pixels_;
    int words_ = 0;              ///< of a row
    std::vector<uint64_t> open_; ///< a bit a pixel that is not covered yet, row by row
};

} // namespace

QImage picture_of(const std::vector<Stroke>& strokes, QSize size, QRgb ground) {
    if (size.isEmpty()) return {};
    QImage image(size, QImage::Format_RGB32);
    image.fill(ground);
    constexpr int band = 32; // rows: few enough that both cores have work and the pixels stay in the cache
    const int bands = (size.height() + band - 1) / band;
    image.bits(); // detached here, before several write to it
    // Each band looks only at the strokes that reach it: bands from and to, none where from is the greater.
    struct Reach {
        uint16_t from = 1, to = 0;
    };
    std::vector<Reach> reaches(strokes.size());
    tbb::parallel_for(tbb::blocked_range<size_t>(0, strokes.size(), 4096), [&](const auto& range) {
        for (size_t i = range.begin(); i < range.end(); ++i) {
            const Stroke& s = strokes[i];
            if (!std::isfinite(s.ax + s.ay + s.bx + s.by + s.half) || !(s.half > 0)) continue;
            const float reach = s.half + soft, last = float(bands - 1);
            const float from = std::floor((std::min(s.ay, s.by) - reach) / band),
                        to = std::floor((std::max(s.ay, s.by) + reach) / band);
            if (to < 0 || from > last || std::max(s.ax, s.bx) + reach < 0 ||
                std::min(s.ax, s.bx) - reach > float(size.width()))
                continue;
            reaches[i] = {uint16_t(std::max(from, 0.0F)), uint16_t(std::min(to, last))};
        }
    });
    tbb::parallel_for(0, bands, [&](int k) {
        const int first = k * band, count = std::min(band, size.height() - first);
        Rows rows(first, count, size.width());
        for (size_t i = strokes.size(); i-- > 0;)
            if (reaches[i].from <= k && k <= reaches[i].to) rows.lay(strokes[i]);
        rows.write(image, ground);
    });
    return image;
}

} // namespace lp
