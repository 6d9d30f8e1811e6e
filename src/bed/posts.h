// Upright support posts under what hangs: bodies of their own, a contact gap below what they carry.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

struct PostOptions {
    double overhang_limit_deg = 45;
    double contact_gap_mm =
        0.2;               ///< between the tip and the part, and between the foot and the part when it stands on it
    double spacing_mm = 4; ///< of posts under a large area
    double post_mm = 2.4;  ///< across the post
    double tip_mm = 0.8;   ///< across the tip
    bool operator==(const PostOptions&) const = default;
};

/// Problem when the sizes make no sense.
std::optional<Problem> check_posts(const PostOptions& options);

struct Post {
    Vec3 foot, tip; ///< ends of the axis
    double post_mm, tip_mm;
    bool on_part = false; ///< stands on the part, not on the bed
};

struct Supports {
    std::vector<Post> posts;
    TriMesh mesh;        ///< all posts, each a closed shell
    size_t left_out = 0; ///< hanging patches that no post fits under
};

/// One post at least under every hanging patch that has room for one; others on a grid of the spacing. A post keeps
/// the contact gap to the part on all sides and is made thinner, down to the tip, where it must. The mesh stands on z =
/// 0.
Supports make_posts(const TriMesh& posed, const PostOptions& options, const Task& task = {});

} // namespace lp
