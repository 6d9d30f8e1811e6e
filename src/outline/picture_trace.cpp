#include "outline/picture_trace.h"
#include "base/text.h"
#include <array>
#include <cmath>
#include <potracelib.h>

namespace lp {
namespace {

constexpr size_t most_curves = 50'000;

/// Bits as the library wants them: the lowest row first, the leftmost pixel in the highest bit of a word.
class Bitmap {
  public:
    Bitmap(const GreyPicture& picture, int threshold, bool light)
        : per_row_(long((picture.width + word_bits - 1) / word_bits)),
          words_(size_t(per_row_) * picture.height, potrace_word(0)) {
        for (uint32_t y = 0; y < picture.height; ++y) {
            const uint8_t* row = &picture.grey[size_t(picture.height - 1 - y) * picture.width];
            for (uint32_t x = 0; x < picture.width; ++x)
                if ((row[x] > threshold) == light)
                    words_[size_t(y) * size_t(per_row_) + x / word_bits] |= potrace_word(1)
                                                                            << (word_bits - 1 - x % word_bits);
        }
        bitmap_ = {int(picture.width), int(picture.height), int(per_row_), words_.data()};
    }
    const potrace_bitmap_t* get() const { return &bitmap_; }

  private:
    static constexpr uint32_t word_bits = 8 * sizeof(potrace_word);
    long per_row_;
    std::vector<potrace_word> words_;
    potrace_bitmap_t bitmap_{};
};

struct Freed {
    void operator()(potrace_param_t* p) const { potrace_param_free(p); }
    void operator()(potrace_state_t* s) const { potrace_state_free(s); }
};

std::vector<Curve> contour_of(const potrace_curve_t& curve) {
    auto place = [&](int i, int k) -> Vec2 { return Vec2(curve.c[i][k].x, curve.c[i][k].y) * picture_pixel_mm; };
    std::vector<Curve> contour;
    Vec2 from = place(curve.n - 1, 2);
    auto line_to = [&](const Vec2& to) {
        constexpr double nothing_mm = 1e-9;
        if ((to - from).norm() > nothing_mm) contour.push_back(Curve::line(from, to));
        from = to;
    };
    for (int i = 0; i < curve.n; ++i) {
        if (curve.tag[i] == POTRACE_CORNER) {
            line_to(place(i, 1));
            line_to(place(i, 2));
            continue;
        }
        contour.push_back(Curve::cubic(from, place(i, 0), place(i, 1), place(i, 2)));
        from = place(i, 2);
    }
    return contour;
}

} // namespace

Expected<TraceOptions> trace_options(const std::string& ink, const std::string& dark) {
    TraceOptions options;
    if (ink != "dark" && ink != "light")
        return problem(ProblemCode::Wording, "The ink of a picture cannot be " + quoted_start(ink) + ".",
                       "Write dark or light.");
    options.light_ink = ink == "light";
    if (dark == "auto" || dark.empty()) return options;
    char* end = nullptr;
    const double percent = std::strtod(dark.c_str(), &end);
    const std::string rest = end;
    if (end == dark.c_str() || (rest != "" && rest != "%" && rest != " %") || !(percent > 0 && percent < 100))
        return problem(ProblemCode::Wording, "A brightness of " + quoted_start(dark) + " parts nothing.",
                       "Write auto, or 1 to 99 %: what is darker is ink.");
    options.dark = percent / 100;
    return options;
}

int parting_brightness(const GreyPicture& picture) {
    std::array<double, 256> count{};
    double all = 0, sum = 0;
    for (uint8_t g : picture.grey) ++count[g];
    for (int g = 0; g < 256; ++g) {
        all += count[size_t(g)];
        sum += g * count[size_t(g)];
    }
    // Where a stretch of brightnesses parts equally well (no pixel has them), its middle is taken.
    double best = -1, below = 0, below_sum = 0;
    int first = 127, last = 127;
    for (int g = 0; g < 255; ++g) {
        below += count[size_t(g)];
        below_sum += g * count[size_t(g)];
        const double above = all - below;
        if (below == 0 || above == 0) continue;
        const double apart = below_sum / below - (sum - below_sum) / above, between = below * above * apart * apart;
        if (between > best * (1 + 1e-12))
            best = between, first = last = g;
        else if (between > best * (1 - 1e-12))
            last = g;
    }
    return (first + last) / 2;
}

Expected<std::vector<FlatPath>> traced_picture(const GreyPicture& picture, const TraceOptions& options) {
    const int threshold = options.dark ? int(std::lround(*options.dark * 255)) : parting_brightness(picture);
    const std::pair key(threshold, options.light_ink);
    std::lock_guard lock(picture.mutex);
    if (auto known = picture.traces.find(key); known != picture.traces.end()) return known->second;
    const Bitmap bitmap(picture, threshold, options.light_ink);
    const std::unique_ptr<potrace_param_t, Freed> how(potrace_param_default());
    constexpr double speck_share = 1.0 / 200;
    const double speck = std::max(2.0, speck_share * std::max(picture.width, picture.height));
    if (how) how->turdsize = int(speck * speck);
    const std::unique_ptr<potrace_state_t, Freed> traced(how ? potrace_trace(how.get(), bitmap.get()) : nullptr);
    if (!traced || traced->status != POTRACE_STATUS_OK)
        return problem(ProblemCode::Geometry, "The picture cannot be traced: there is not memory enough.",
                       "Bring in a smaller one.");
    FlatPath all; // by turns: a hole in a shape is a contour of its own
    all.fill = FillRule::EvenOdd;
    size_t curves = 0;
    for (const potrace_path_t* path = traced->plist; path; path = path->next) {
        all.contours.push_back(contour_of(path->curve));
        all.closed.push_back(true);
        curves += all.contours.back().size();
    }
    if (all.contours.empty())
        return problem(ProblemCode::Geometry,
                       options.light_ink ? "Nothing in the picture is lighter than the rest."
                                         : "Nothing in the picture is dark enough.",
                       "Set another brightness, or the other ink.");
    if (curves > most_curves)
        return problem(ProblemCode::Range, "The picture has too much detail: more than 50,000 curves.",
                       "Set another brightness, or bring in a picture with less around the emblem.");
    std::vector<FlatPath> paths{std::move(all)};
    constexpr size_t most_kept = 8;
    if (picture.traces.size() >= most_kept) picture.traces.clear();
    picture.traces.emplace(key, paths);
    return paths;
}

} // namespace lp
