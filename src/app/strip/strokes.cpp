#include "app/strip/strokes.h"
#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <unordered_map>
#pragma push_macro("emit") // one of Qt, a name in the next headers
#undef emit
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#pragma pop_macro("emit")

namespace lp {
namespace {

constexpr float soft = 0.5F;    // half of the width of an edge
constexpr float covered = 0.9F; // what lies below would hardly be seen any more
constexpr int word = 64;        // pixels of a row in one mask
constexpr int group = 8;        // rows whose open pixels are looked at in one

/// What all rows of a stroke ask for.
struct Way {
    explicit Way(const Stroke& s)
        : dx(s.bx - s.ax), dy(s.by - s.ay), reach(s.half + soft), inner(std::max(0.0F, s.half - soft)),
          most(std::min(1.0F, 2 * s.half)), r(float(qRed(s.colour))), g(float(qGreen(s.colour))),
          b(float(qBlue(s.colour))) {
        const float square = dx * dx + dy * dy;
        inverse = square > 0 ? 1 / square : 0;
        left = std::min(s.ax, s.bx) - reach;
        right = std::max(s.ax, s.bx) + reach;
        if (std::fabs(dy) < 1e-6F) return; // level: one row may meet all of it
        per_row = 1 / dy;
        aside = reach * std::sqrt(square) * std::fabs(per_row);
    }
    float dx, dy, inverse = 0;
    float reach, inner;  ///< from its middle: as far as it tints, as far as it covers
    float most;          ///< what it covers; finer than a pixel: paler
    float r, g, b;       ///< its colour
    float left, right;   ///< its box
    float per_row = 0;   ///< share of its length a row
    float aside = 1e30F; ///< so far to both sides of its middle a row may meet it
};

/// Some rows of the picture. Strokes are laid from the top one down: what is covered costs nothing.
class Rows {
  public:
    /// Anew for these rows; memory of the last ones is used again.
    void begin(int first, int count, int width) {
        first_ = first;
        count_ = count;
        width_ = width;
        pixels_.assign(size_t(count) * size_t(width), {});
        words_ = (width + word - 1) / word;
        open_.assign(size_t(count) * size_t(words_), ~uint64_t(0));
        groups_.assign(size_t((count + group - 1) / group) * size_t(words_), ~uint64_t(0));
        if (width % word) // the last word may be narrower
            for (int y = 0; y < count; ++y)
                open_[size_t(y + 1) * size_t(words_) - 1] = (uint64_t(1) << (width % word)) - 1;
    }

    void lay(const Stroke& s) {
        const float reach = s.half + soft;
        const float top = std::min(s.ay, s.by) - reach, low = std::max(s.ay, s.by) + reach;
        const float end = float(first_ + count_);
        if (!(low > float(first_)) || !(top < end)) return;
        const int from = std::max(first_, int(std::max(top, float(first_))));
        const int to = std::min(first_ + count_ - 1, int(std::min(low, end)));
        const float left = std::min(s.ax, s.bx) - reach, right = std::max(s.ax, s.bx) + reach;
        if (!(right > 0) || !(left < float(width_))) return;
        if (to - from < 2 * group && right - left < float(word) && !is_open(from, to, left, right)) return;
        const Way way(s);
        for (int y = from; y <= to;) {
            const int next = std::min(to + 1, (y - first_) / group * group + group + first_);
            if (may_be_open(s, way, y, next)) {
                bool any = false;
                for (int row = y; row < next; ++row) any |= lay_in_row(s, way, row);
                if (!any) look_again(y, way);
            }
            y = next;
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

    /// Pixels, first and last, that the stroke may reach where its middle passes between two places of x; none where
    /// the last is the smaller.
    std::pair<int, int> reached(const Way& way, float x, float until_x) const {
        // To both sides as far as its slant takes its width.
        const float low = std::max(std::min(x, until_x) - way.aside, way.left),
                    high = std::min(std::max(x, until_x) + way.aside, way.right);
        // Rounding by hand: the library's, without newer instructions, costs more than all else here.
        return {int(std::max(0.0F, low + 0.499F)), int(std::min(float(width_), high + 0.5F)) - 1};
    }
    static float middle_at(const Stroke& s, const Way& way, float y) {
        return s.ax + std::clamp((y - s.ay) * way.per_row, 0.0F, 1.0F) * way.dx;
    }
    /// The bits of a word's pixels from one to another.
    static uint64_t between(int k, int from, int to) {
        uint64_t mine = ~uint64_t(0);
        if (from > k * word) mine &= ~uint64_t(0) << (from - k * word);
        if (to < k * word + word - 1) mine &= ~uint64_t(0) >> (k * word + word - 1 - to);
        return mine;
    }

    /// Whether a pixel of a box may be open. Most strokes of a pile of layers are short, lie under others, and are done
    /// with here.
    bool is_open(int from_row, int to_row, float left, float right) const {
        const int from = int(std::max(0.0F, left)), to = int(std::min(float(width_ - 1), right));
        for (int g = (from_row - first_) / group; g <= (to_row - first_) / group; ++g)
            if (any_open(g, from, to)) return true;
        return false;
    }
    /// The same of a longer stroke in the rows of a group.
    bool may_be_open(const Stroke& s, const Way& way, int from_row, int until_row) const {
        const auto [from, to] =
            reached(way, middle_at(s, way, float(from_row) + 0.5F), middle_at(s, way, float(until_row) - 0.5F));
        return any_open((from_row - first_) / group, from, to);
    }
    bool any_open(int in_group, int from, int to) const {
        const uint64_t* open = &groups_[size_t(in_group) * size_t(words_)];
        for (int k = from / word; k <= to / word && from <= to; ++k)
            if (open[k] & between(k, from, to)) return true;
        return false;
    }
    /// After a stroke found nothing open where a group of rows said there may be.
    void look_again(int row, const Way& way) {
        const int begin = (row - first_) / group * group, end = std::min(count_, begin + group);
        const int from = int(std::max(0.0F, way.left)) / word,
                  to = std::min(words_ - 1, int(std::min(float(width_), way.right)) / word);
        for (int k = from; k <= to; ++k) {
            uint64_t any = 0;
            for (int y = begin; y < end; ++y) any |= open_[size_t(y) * size_t(words_) + size_t(k)];
            groups_[size_t(begin / group) * size_t(words_) + size_t(k)] = any;
        }
    }

    /// The pixels of a row that are open where the stroke may reach them; whether there are such.
    bool lay_in_row(const Stroke& s, const Way& way, int row) {
        const float y = float(row) + 0.5F;
        const float x = middle_at(s, way, y);
        const auto [from, to] = reached(way, x, x);
        if (from > to) return false;
        bool any = false;
        uint64_t* open = &open_[size_t(row - first_) * size_t(words_)];
        Pixel* p = &pixels_[size_t(row - first_) * size_t(width_)];
        for (int k = from / word; k <= to / word; ++k) {
            uint64_t mine = open[k] & between(k, from, to);
            any |= mine != 0;
            for (; mine; mine &= mine - 1) {
                const int bit = std::countr_zero(mine), at = k * word + bit;
                if (tint(p[at], way, float(at) + 0.5F - s.ax, y - s.ay)) open[k] &= ~(uint64_t(1) << bit);
            }
        }
        return any;
    }

    /// A pixel whose middle lies there from the stroke's begin; whether it is covered now.
    static bool tint(Pixel& p, const Way& way, float px, float py) {
        const float t = std::clamp((px * way.dx + py * way.dy) * way.inverse, 0.0F, 1.0F);
        const float ex = px - t * way.dx, ey = py - t * way.dy, d2 = ex * ex + ey * ey;
        if (d2 >= way.reach * way.reach) return false;
        const float share =
            (d2 <= way.inner * way.inner ? way.most : std::min(way.reach - std::sqrt(d2), way.most)) * (1 - p.alpha);
        p.r += share * way.r;
        p.g += share * way.g;
        p.b += share * way.b;
        p.alpha += share;
        if (p.alpha <= covered) return false;
        const float whole = 1 / p.alpha; // what is missing looks like what is there
        p = {p.r * whole, p.g * whole, p.b * whole, 1};
        return true;
    }

    int first_ = 0, count_ = 0, width_ = 0;
    std::vector<Pixel> pixels_;
    int words_ = 0;              ///< of a row
    std::vector<uint64_t> open_; ///< a bit a pixel that is not covered yet, row by row
    /// The same, of a group of rows in one. What was covered since may still count as open.
    std::vector<uint64_t> groups_;
};

/// Long strokes laid so far, by the line they lie on. Infill and straight walls of a pile of layers lie on the same
/// lines again and again: one that lies within another is not seen, and asking that once is cheaper than in every row.
class LongStrokes {
  public:
    /// Whether one above covers all of the stroke; else it is remembered. Asked from the top one down.
    bool covers(const Stroke& s) {
        const float dx = s.bx - s.ax, dy = s.by - s.ay, square = dx * dx + dy * dy;
        if (!(square > long_px * long_px) || !(s.half >= 0.5F)) return false; // finer ones let others through
        const float turn = dx < 0 || (dx == 0 && dy < 0) ? -1.0F : 1.0F, inverse = turn / std::sqrt(square);
        const float ux = dx * inverse, uy = dy * inverse;
        const float aside = s.ay * ux - s.ax * uy, a = s.ax * ux + s.ay * uy, b = s.bx * ux + s.by * uy;
        const Run run{std::min(a, b), std::max(a, b), s.half};
        std::vector<Run>& runs = lines_[key(uy, aside)];
        for (Run& laid : runs) {
            if (laid.half + 0.01F < run.half) continue;
            if (laid.from <= run.from + slack && run.until <= laid.until + slack) return true;
            if (laid.half <= run.half + 0.01F && run.from <= laid.from && laid.until <= run.until) {
                laid = run; // a longer one takes its place
                return false;
            }
        }
        if (runs.size() < most_runs) runs.push_back(run);
        return false;
    }

  private:
    static constexpr float long_px = 24; ///< two short ones on a line are found faster than they are asked for here
    static constexpr float slack = 0.25F;
    static constexpr size_t most_runs = 16;
    struct Run {
        float from, until, half; ///< along the line, pixels
    };
    /// Of a line by its slant and how far it passes the picture's corner: within a quarter of a pixel.
    static uint64_t key(float slant, float aside) {
        const auto part = [](float x) { return uint64_t(uint32_t(int32_t(x + (x < 0 ? -0.5F : 0.5F)))); };
        return part(slant * 2000) << 32 | part(std::clamp(aside, -1e6F, 1e6F) * 4);
    }
    std::unordered_map<uint64_t, std::vector<Run>> lines_;
};

bool is_finite(const Stroke& s) {
    return std::isfinite(s.ax + s.ay + s.bx + s.by + s.half) && s.half > 0;
}

} // namespace

QImage picture_of(const std::vector<Stroke>& strokes, QSize size, QRgb ground) {
    if (size.isEmpty()) return {};
    QImage image(size, QImage::Format_RGB32);
    constexpr int band = 32; // rows: few enough that both cores have work and the pixels stay in the cache
    const int bands = (size.height() + band - 1) / band;
    image.bits(); // detached here, before several write to it
    LongStrokes laid;
    std::vector<uint8_t> unseen(strokes.size());
    for (size_t i = strokes.size(); i-- > 0;) unseen[i] = !is_finite(strokes[i]) || laid.covers(strokes[i]);
    // Each band looks only at the strokes that reach it: their numbers, chunk by chunk of all.
    constexpr size_t chunk = 8192;
    const size_t chunks = (strokes.size() + chunk - 1) / chunk;
    std::vector<std::vector<uint32_t>> reaching(chunks * size_t(bands));
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        for (size_t i = c * chunk; i < std::min(strokes.size(), (c + 1) * chunk); ++i) {
            if (unseen[i]) continue;
            const Stroke& s = strokes[i];
            const float reach = s.half + soft, top = std::min(s.ay, s.by) - reach, low = std::max(s.ay, s.by) + reach;
            if (low < 0 || top > float(size.height()) || std::max(s.ax, s.bx) + reach < 0 ||
                std::min(s.ax, s.bx) - reach > float(size.width()))
                continue;
            const int last = int(std::min(low, float(size.height() - 1))) / band;
            for (int k = int(std::max(top, 0.0F)) / band; k <= last; ++k)
                reaching[c * size_t(bands) + size_t(k)].push_back(uint32_t(i));
        }
    });
    tbb::enumerable_thread_specific<Rows> of_thread;
    tbb::parallel_for(0, bands, [&](int k) {
        Rows& rows = of_thread.local();
        rows.begin(k * band, std::min(band, size.height() - k * band), size.width());
        for (size_t c = chunks; c-- > 0;) {
            const std::vector<uint32_t>& mine = reaching[c * size_t(bands) + size_t(k)];
            for (auto i = mine.rbegin(); i != mine.rend(); ++i) rows.lay(strokes[*i]);
        }
        rows.write(image, ground);
    });
    return image;
}

} // namespace lp
