#include "mesh/exact_grid.h"
#include <cmath>
#include <cstring>

namespace lp::arrangement {

void set_wide(mpz_class& out, Wide value) {
    bool negative = value < 0;
    auto size = negative ? -static_cast<unsigned __int128>(value) : static_cast<unsigned __int128>(value);
    out = static_cast<unsigned long>(size >> 64);
    out <<= 64;
    out += static_cast<unsigned long>(size);
    if (negative) out = -out;
}

uint64_t ExactPoints::hash_of(const double* point) {
    auto mix = [](uint64_t h) {
        h ^= h >> 31;
        h *= 0x9E3779B97F4A7C15ull;
        h ^= h >> 29;
        h *= 0xBF58476D1CE4E5B9ull;
        return h ^ (h >> 32);
    };
    uint64_t a, b, c;
    std::memcpy(&a, point, 8);
    std::memcpy(&b, point + 1, 8);
    std::memcpy(&c, point + 2, 8);
    return mix(a + 0x9E37 * mix(b + 0x79B9 * mix(c)));
}

void ExactPoints::reserve(size_t points) {
    size_t size = 16;
    while (size < points * 2) size *= 2;
    table_.assign(size, -1);
    mask_ = size - 1;
    grid_.reserve(points);
}

long ExactPoints::find_grid(const double* point) const {
    size_t i = hash_of(point) & mask_;
    while (table_[i] >= 0) {
        const GridPoint& g = grid_[size_t(table_[i])];
        if (g[0] == point[0] && g[1] == point[1] && g[2] == point[2]) return table_[i];
        i = (i + 1) & mask_;
    }
    return -1;
}

int ExactPoints::add_grid(const GridPoint& point) {
    long found = find_grid(point.data());
    if (found >= 0) return int(found);
    size_t i = hash_of(point.data()) & mask_;
    while (table_[i] >= 0) i = (i + 1) & mask_;
    table_[i] = int(grid_.size());
    grid_.push_back(point);
    return table_[i];
}

int ExactPoints::add_meeting(mpz_class (&h)[4]) {
    if (h[3] < 0)
        for (mpz_class& x : h) x = -x;
    mpz_class common = gcd(gcd(gcd(h[0], h[3]), h[1]), h[2]);
    if (common > 1)
        for (mpz_class& x : h) mpz_divexact(x.get_mpz_t(), x.get_mpz_t(), common.get_mpz_t());
    GridPoint rounded;
    if (h[3] == 1) {
        for (size_t i = 0; i < 3; ++i) rounded[i] = h[i].get_d() + 0.0;
        if (long found = find_grid(rounded.data()); found >= 0) return int(found);
    } else {
        for (size_t i = 0; i < 3; ++i) {
            mpq_class q(h[i], h[3]);
            rounded[i] = q.get_d() + 0.0;
        }
    }
    uint64_t key = hash_of(rounded.data());
    size_t shard = key & 63;
    std::lock_guard lock(locks_[shard]);
    auto [first, last] = by_hash_[shard].equal_range(key);
    for (auto it = first; it != last; ++it) {
        const Meeting& m = meetings_[size_t(it->second)];
        if (m.h[3] == h[3] && m.h[0] == h[0] && m.h[1] == h[1] && m.h[2] == h[2]) return it->second + int(grid_.size());
    }
    Meeting fresh;
    fresh.rounded = rounded;
    for (size_t i = 0; i < 4; ++i) fresh.h[i] = h[i];
    int number = int(meetings_.push_back(std::move(fresh)) - meetings_.begin());
    by_hash_[shard].emplace(key, number);
    return number + int(grid_.size());
}

void ExactPoints::homogeneous(int id, int axis, mpz_class& out) const {
    if (!is_grid(id))
        out = meetings_[size_t(id) - grid_.size()].h[axis];
    else if (axis == 3)
        out = 1;
    else
        out = static_cast<long>(grid_[size_t(id)][size_t(axis)]);
}

int ExactPoints::side_of_plane(int a, int b, int c, int d) const {
    double u[3], v[3], w[3];
    for (size_t i = 0; i < 3; ++i) {
        u[i] = grid_[size_t(b)][i] - grid_[size_t(a)][i];
        v[i] = grid_[size_t(c)][i] - grid_[size_t(a)][i];
        w[i] = grid_[size_t(d)][i] - grid_[size_t(a)][i];
    }
    double m0 = v[1] * w[2], m1 = v[2] * w[1], m2 = v[2] * w[0], m3 = v[0] * w[2], m4 = v[0] * w[1], m5 = v[1] * w[0];
    double det = u[0] * (m0 - m1) + u[1] * (m2 - m3) + u[2] * (m4 - m5);
    double size = std::fabs(u[0]) * (std::fabs(m0) + std::fabs(m1)) +
                  std::fabs(u[1]) * (std::fabs(m2) + std::fabs(m3)) + std::fabs(u[2]) * (std::fabs(m4) + std::fabs(m5));
    if (std::fabs(det) > size * 2e-15) return det > 0 ? 1 : -1; // rounding cannot have turned it
    int64_t U[3], V[3], W[3];
    for (int i = 0; i < 3; ++i) U[i] = int64_t(u[i]), V[i] = int64_t(v[i]), W[i] = int64_t(w[i]);
    return sign_of(Wide(U[0]) * (V[1] * W[2] - V[2] * W[1]) + Wide(U[1]) * (V[2] * W[0] - V[0] * W[2]) +
                   Wide(U[2]) * (V[0] * W[1] - V[1] * W[0]));
}

int ExactPoints::turn(int a, int b, int c, int u, int v) const {
    if (a == b || b == c || a == c) return 0;
    const double *p = rounded(a), *q = rounded(b), *r = rounded(c);
    double ax = q[u] - p[u], ay = q[v] - p[v], bx = r[u] - p[u], by = r[v] - p[v], l = ax * by, m = ay * bx;
    if (is_grid(a) && is_grid(b) && is_grid(c)) {
        int64_t d = int64_t(ax) * int64_t(by) - int64_t(ay) * int64_t(bx);
        return d > 0 ? 1 : d < 0 ? -1 : 0;
    }
    double error = 1e-7 * (std::fabs(ax) + std::fabs(ay) + std::fabs(bx) + std::fabs(by)) +
                   2e-15 * (std::fabs(l) + std::fabs(m)) + 1e-13;
    if (l - m > error) return 1;
    if (l - m < -error) return -1;
    mpz_class h[3][3];
    int ids[3] = {a, b, c};
    for (int i = 0; i < 3; ++i) {
        homogeneous(ids[i], u, h[i][0]);
        homogeneous(ids[i], v, h[i][1]);
        homogeneous(ids[i], 3, h[i][2]);
    }
    mpz_class d = h[0][0] * (h[1][1] * h[2][2] - h[1][2] * h[2][1]) -
                  h[0][1] * (h[1][0] * h[2][2] - h[1][2] * h[2][0]) + h[0][2] * (h[1][0] * h[2][1] - h[1][1] * h[2][0]);
    return sgn(d);
}

int ExactPoints::compare(int a, int b, int axis) const {
    if (a == b) return 0;
    double x = rounded(a)[axis], y = rounded(b)[axis];
    if (x != y) return x < y ? -1 : 1; // rounding keeps the order
    if (is_grid(a) && is_grid(b)) return 0;
    mpz_class p, q, r, s;
    homogeneous(a, axis, p);
    homogeneous(a, 3, q);
    homogeneous(b, axis, r);
    homogeneous(b, 3, s);
    mpz_class d = p * s - r * q;
    return sgn(d);
}

} // namespace lp::arrangement
