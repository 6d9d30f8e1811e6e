// Meshes made by formula, for tests: a library-free second source of geometry.
#pragma once
#include "shape/tri_mesh.h"
#include <cmath>
#include <filesystem>
#include <numbers>
#include <unistd.h>

namespace lp::test {

inline TriMesh cube(double side, const Vec3& at = Vec3(0, 0, 0)) {
    return box_mesh(at, at + Vec3::Constant(side));
}

inline TriMesh moved_by(TriMesh mesh, const Vec3& by) {
    for (Vec3& v : mesh.vertices) v += by;
    return mesh;
}

inline TriMesh turned(TriMesh mesh, double deg, const Vec3& axis) {
    Eigen::AngleAxisd turn(radians(deg), axis.normalized());
    for (Vec3& v : mesh.vertices) v = turn * v;
    return mesh;
}

inline TriMesh inside_out(TriMesh mesh) {
    for (Triangle& t : mesh.triangles) std::swap(t[1], t[2]);
    return mesh;
}

/// Latitude-longitude sphere.
inline TriMesh sphere(double radius, int n, const Vec3& centre = Vec3(0, 0, 0)) {
    TriMesh mesh;
    mesh.vertices.push_back(centre + Vec3(0, 0, radius));
    for (int i = 1; i < n; ++i)
        for (int j = 0; j < 2 * n; ++j) {
            double theta = std::numbers::pi * i / n, phi = std::numbers::pi * j / n;
            mesh.vertices.push_back(centre + radius * Vec3(std::sin(theta) * std::cos(phi),
                                                           std::sin(theta) * std::sin(phi), std::cos(theta)));
        }
    mesh.vertices.push_back(centre - Vec3(0, 0, radius));
    auto id = [&](int i, int j) { return uint32_t(1 + (i - 1) * 2 * n + j % (2 * n)); };
    auto last = uint32_t(mesh.vertices.size() - 1);
    for (int j = 0; j < 2 * n; ++j) {
        mesh.triangles.push_back({0, id(1, j), id(1, j + 1)});
        mesh.triangles.push_back({last, id(n - 1, j + 1), id(n - 1, j)});
        for (int i = 1; i + 1 < n; ++i) {
            mesh.triangles.push_back({id(i, j), id(i + 1, j), id(i + 1, j + 1)});
            mesh.triangles.push_back({id(i, j), id(i + 1, j + 1), id(i, j + 1)});
        }
    }
    return mesh;
}

/// About z.
inline TriMesh torus(double ring_r, double tube_r, int nu, int nv) {
    constexpr double tau = 2 * std::numbers::pi;
    TriMesh mesh;
    for (int i = 0; i < nu; ++i)
        for (int j = 0; j < nv; ++j) {
            const double u = tau * i / nu, v = tau * j / nv, r = ring_r + tube_r * std::cos(v);
            mesh.vertices.push_back({r * std::cos(u), r * std::sin(u), tube_r * std::sin(v)});
        }
    auto id = [&](int i, int j) { return uint32_t((i % nu) * nv + j % nv); };
    for (int i = 0; i < nu; ++i)
        for (int j = 0; j < nv; ++j) {
            mesh.triangles.push_back({id(i, j), id(i + 1, j), id(i + 1, j + 1)});
            mesh.triangles.push_back({id(i, j), id(i + 1, j + 1), id(i, j + 1)});
        }
    return mesh;
}

/// Every facet with corners of its own, as an STL file holds them.
inline TriMesh soup(const TriMesh& mesh) {
    TriMesh result;
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        auto base = uint32_t(result.vertices.size());
        for (int k = 0; k < 3; ++k) result.vertices.push_back(mesh.corner(i, k));
        result.triangles.push_back({base, base + 1, base + 2});
    }
    return result;
}

/// A folder of its own, gone with the object.
struct Folder {
    std::filesystem::path path;
    Folder() {
        static int n = 0;
        path = std::filesystem::temp_directory_path() /
               ("loose-peg-test-" + std::to_string(getpid()) + "-" + std::to_string(n++));
        std::filesystem::create_directories(path);
    }
    ~Folder() {
        std::error_code error;
        std::filesystem::remove_all(path, error);
    }
    std::filesystem::path operator/(const std::string& name) const { return path / name; }
};

} // namespace lp::test
