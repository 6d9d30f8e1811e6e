#include "handoff/part_picture.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr uint32_t white = 0xffffffff;

struct View {
    Vec3 right, up, toward; ///< unit; toward the eye
};

/// Isometric: the three axes are shortened alike.
View standard_view() {
    const Vec3 toward = Vec3(1, -1.35, 1.05).normalized(), right = Vec3::UnitZ().cross(toward).normalized();
    return {right, toward.cross(right), toward};
}

class Raster {
  public:
    Raster(int width, int height)
        : width_(width), height_(height), depth_(size_t(width) * size_t(height), nothing), facet_(depth_.size(), 0) {}

    /// As far as it lies within some rows. Corners: x, y in pixels, z towards the eye.
    void fill(const std::array<Vec3, 3>& corners, uint32_t facet, int first_row, int last_row) {
        const double area = cross(corners[0], corners[1], corners[2]);
        if (std::fabs(area) < 1e-9) return;
        auto range = [&](int axis, int least, int most) {
            const double low = std::min({corners[0][axis], corners[1][axis], corners[2][axis]}),
                         high = std::max({corners[0][axis], corners[1][axis], corners[2][axis]});
            return std::pair(std::max(least, int(std::ceil(low - 0.5))), std::min(most, int(std::floor(high - 0.5))));
        };
        const auto [y0, y1] = range(1, first_row, last_row);
        if (y0 > y1) return;
        const auto [x0, x1] = range(0, 0, width_ - 1);
        // What a corner counts for at a pixel is linear along a row, and so is the depth: a row needs no look at the
        // pixels beside the facet.
        const std::array<Share, 3> shares{share(corners[1], corners[2], area), share(corners[2], corners[0], area),
                                          share(corners[0], corners[1], area)};
        for (int y = y0; y <= y1; ++y) {
            double left = x0 + 0.5, right = x1 + 0.5, depth = 0, slope = 0;
            for (size_t k = 0; k < 3; ++k) {
                const double at_zero = shares[k].of_y * (y + 0.5) + shares[k].constant, rise = shares[k].of_x;
                depth += at_zero * corners[k].z();
                slope += rise * corners[k].z();
                if (rise > 0)
                    left = std::max(left, -at_zero / rise);
                else if (rise < 0)
                    right = std::min(right, -at_zero / rise);
                else if (at_zero < 0)
                    right = -1;
            }
            // A side that is all but level meets the row far beyond what a whole number holds.
            const int first = int(std::ceil(std::min(left, x1 + 1.5) - 0.5)),
                      last = int(std::floor(std::max(right, x0 - 0.5) - 0.5));
            for (int x = first; x <= last; ++x) {
                const double here = depth + slope * (x + 0.5);
                const size_t i = size_t(y) * size_t(width_) + size_t(x);
                if (here <= depth_[i]) continue;
                depth_[i] = here;
                facet_[i] = facet;
            }
        }
    }
    bool drawn(int x, int y) const { return depth_at(x, y) > nothing; }
    /// Whether nothing is drawn in a square of pixels.
    bool is_empty(int x, int y, int side) const {
        for (int v = y; v < std::min(y + side, height_); ++v)
            for (int u = x; u < std::min(x + side, width_); ++u)
                if (drawn(u, v)) return false;
        return true;
    }
    double depth_at(int x, int y) const { return depth_[size_t(y) * size_t(width_) + size_t(x)]; }
    uint32_t facet_at(int x, int y) const { return facet_[size_t(y) * size_t(width_) + size_t(x)]; }

  private:
    static constexpr double nothing = -std::numeric_limits<double>::infinity();
    /// Of a corner at a place: of_x x + of_y y + constant, 1 at the corner, 0 along the side opposite.
    struct Share {
        double of_x, of_y, constant;
    };
    static Share share(const Vec3& a, const Vec3& b, double area) {
        const double dx = b.x() - a.x(), dy = b.y() - a.y();
        return {-dy / area, dx / area, (dy * a.x() - dx * a.y()) / area};
    }
    static double cross(const Vec3& a, const Vec3& b, const Vec3& c) {
        return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
    }
    int width_, height_;
    std::vector<double> depth_;
    std::vector<uint32_t> facet_;
};

/// An edge runs between two pixels where the surface turns by more than 25 degrees or steps back.
bool edge_between(const Raster& raster, const std::vector<Vec3>& normals, int x, int y, int u, int v, double step) {
    if (raster.drawn(x, y) != raster.drawn(u, v)) return true;
    if (!raster.drawn(x, y)) return false;
    const Vec3 &a = normals[raster.facet_at(x, y)], &b = normals[raster.facet_at(u, v)];
    static const double cos_turn = std::cos(radians(25));
    return a.dot(b) < cos_turn || std::fabs(raster.depth_at(x, y) - raster.depth_at(u, v)) > step;
}

} // namespace

Vec2 PartPicture::at(const Vec3& place) const {
    return look * place + origin;
}

PartPicture draw_part(const TriMesh& mesh, int width, int height, int border, const std::vector<uint32_t>& colours) {
    constexpr int fine = 2; // drawn so many times finer, then averaged
    PartPicture picture;
    picture.width = width;
    picture.height = height;
    picture.pixels.assign(size_t(width) * size_t(height), white);
    if (mesh.empty()) return picture;
    const View view = standard_view();
    Eigen::AlignedBox2d box;
    // All of its box, not of the mesh alone: sizes are drawn at the box.
    const Box3 all = bounding_box(mesh);
    for (int i = 0; i < 8; ++i) {
        const Vec3 p = all.corner(Box3::CornerType(i));
        box.extend(Vec2(p.dot(view.right), -p.dot(view.up)));
    }
    const Vec2 room(width - 2 * border, height - 2 * border);
    const double scale =
        std::min(room.x() / std::max(1e-9, box.sizes().x()), room.y() / std::max(1e-9, box.sizes().y()));
    picture.look.row(0) = scale * view.right.transpose();
    picture.look.row(1) = -scale * view.up.transpose();
    picture.origin = Vec2(width, height) / 2 - scale * box.center();

    Raster raster(width * fine, height * fine);
    std::vector<Vec3> normals(mesh.triangles.size());
    std::vector<std::array<Vec3, 3>> corners(mesh.triangles.size());
    tbb::parallel_for(size_t(0), normals.size(), [&](size_t t) {
        normals[t] = mesh.area_vector(t).normalized();
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = mesh.corner(t, k);
            corners[t][size_t(k)] << picture.at(p) * fine, p.dot(view.toward) * scale * fine;
        }
    });
    constexpr int bands = 8;
    tbb::parallel_for(0, bands, [&](int band) {
        const int first = band * height * fine / bands, last = (band + 1) * height * fine / bands - 1;
        for (size_t t = 0; t < corners.size(); ++t) raster.fill(corners[t], uint32_t(t), first, last);
    });
    const Vec3 light = (view.toward + 0.6 * view.up - 0.5 * view.right).normalized();
    constexpr double step_back = 12; // fine pixels: more than any slope that still faces the eye
    tbb::parallel_for(0, height, [&](int y) {
        for (int x = 0; x < width; ++x) {
            if (raster.is_empty(x * fine, y * fine, fine + 1)) continue;
            Vec3 sum = Vec3::Zero(); // red, green, blue
            for (int j = 0; j < fine; ++j)
                for (int i = 0; i < fine; ++i) {
                    const int u = x * fine + i, v = y * fine + j;
                    double grey =
                        raster.drawn(u, v) ? 0.55 + 0.4 * std::max(0.0, normals[raster.facet_at(u, v)].dot(light)) : 1;
                    const bool edge =
                        (u + 1 < width * fine && edge_between(raster, normals, u, v, u + 1, v, step_back)) ||
                        (v + 1 < height * fine && edge_between(raster, normals, u, v, u, v + 1, step_back));
                    const uint32_t colour = !edge && raster.drawn(u, v) && raster.facet_at(u, v) < colours.size()
                                                ? colours[raster.facet_at(u, v)]
                                                : 0xffffff;
                    for (int c = 0; c < 3; ++c)
                        sum[c] += (edge ? 0.1 : grey) * double(colour >> (16 - 8 * c) & 0xff) / 255;
                }
            uint32_t pixel = 0xff;
            for (int c = 0; c < 3; ++c) pixel = pixel << 8 | uint32_t(std::lround(255 * sum[c] / (fine * fine)));
            picture.pixels[size_t(y) * size_t(width) + size_t(x)] = pixel;
        }
    });
    return picture;
}

} // namespace lp
