#include "layers/motion.h"
#include <algorithm>
#include <cmath>

namespace lp {

double corner_speed2(double cosine, const MotionCard& card, double shorter_leg_mm) {
    const double s = std::sqrt(std::max(0.0, (1 + cosine) / 2)),                 // sine of half the inner angle
        c = std::sqrt(std::max(0.0, (1 - cosine) / 2));                          // sine of half the turn
    constexpr double straight_on = 1e-6, no_limit = 1e12, square_corner = 2.414; // s / (1 - s) of 90 degrees
    if (c < straight_on) return no_limit;
    const double corner = card.acceleration * card.corner_mm * s / std::max(1e-12, 1 - s);
    const double arc = card.acceleration * std::max(shorter_leg_mm * s / (2 * c), square_corner * card.corner_mm);
    return std::min(corner, arc);
}

double chain_time(const std::vector<MotionMove>& chain, const MotionCard& card) {
    const size_t n = chain.size();
    std::vector<double> v2(n + 1, 0);
    const double a = card.acceleration;
    for (size_t i = n; i-- > 0;) v2[i] = std::min<double>(chain[i].enter2, v2[i + 1] + 2 * a * chain[i].length_mm);
    if (n) v2[0] = 0;
    double time = 0;
    for (size_t i = 0; i < n; ++i) {
        const double l = chain[i].length_mm, top = chain[i].speed_mm_s;
        v2[i + 1] = std::min(v2[i + 1], v2[i] + 2 * a * l);
        const double before = std::sqrt(v2[i]), after = std::sqrt(v2[i + 1]);
        const double way = (2 * top * top - v2[i] - v2[i + 1]) / (2 * a); // to reach the speed and to leave it
        double t = 0;
        if (way <= l) {
            t = (2 * top - before - after) / a + (l - way) / top;
        } else {
            const double peak = std::sqrt(std::max({v2[i], v2[i + 1], a * l + (v2[i] + v2[i + 1]) / 2}));
            t = (2 * peak - before - after) / a;
        }
        time += std::max(t, card.least_s);
    }
    return time;
}

double path_time(const std::vector<Vec3>& places, const std::vector<double>& speeds, const MotionCard& card) {
    std::vector<MotionMove> chain;
    Vec3 direction = Vec3::Zero();
    for (size_t i = 1; i < places.size() && i <= speeds.size(); ++i) {
        const Vec3 way = places[i] - places[i - 1];
        const double l = way.norm(), speed = speeds[i - 1];
        if (l < 1e-5 || !(speed > 0)) continue;
        const Vec3 now = way / l;
        double enter = 0;
        if (!chain.empty()) {
            const double last = chain.back().speed_mm_s;
            enter = std::min({corner_speed2(direction.dot(now), card, std::min<double>(l, chain.back().length_mm)),
                              speed * speed, last * last});
        }
        chain.push_back({float(l), float(speed), float(enter)});
        direction = now;
    }
    return chain_time(chain, card);
}

} // namespace lp
