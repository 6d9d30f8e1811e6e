// What stands under a part that hangs: upright posts or branching trees, bodies of their own with a gap below what they
// carry.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "bed/brim.h"
#include "bed/support_wishes.h"
#include "shape/tri_mesh.h"

namespace lp {

enum class SupportKind {
    Posts, ///< upright, each under one place
    Trees, ///< tips that lean together into trunks
};

/// As files and the command line have it: "post" or "tree".
const char* word_of(SupportKind kind);
std::optional<SupportKind> support_kind_called(const std::string& word);

struct SupportOptions {
    SupportKind kind = SupportKind::Posts;
    double overhang_limit_deg = 45;
    double contact_gap_mm =
        0.2;               ///< between the tip and the part, and between the foot and the part when it stands on it
    int gap_layers = 0;    ///< the same in layers of the print, in place of contact_gap_mm; 0: that holds
    double spacing_mm = 4; ///< of tips under a large area
    double post_mm =
        2.4; ///< across the post; a tree's thinnest branch is half of it, its trunks are as thick as their load
    double tip_mm = 0.8;  ///< across the tip
    double neck_mm = 2.4; ///< height over which the tip widens into the shaft or the branch
    double foot_mm = 1;   ///< by which a foot on the bed is wider all round, where there is room
    double brim_mm = 0;   ///< width of the border round what lies on the bed; 0: none
    BrimPlace brim_place = BrimPlace::Outside;
    double brim_gap_mm = 0;    ///< between the part and its brim: pulled off more easily, holds less
    int raft_layers = 0;       ///< of a raft under everything; it takes the brim's place. 0: none
    int interface_layers = 0;  ///< of a closed floor on the tips, the contact gap below what is carried. 0: none
    LayerHeights heights = {}; ///< of the print: what the interface is laid in
    /// The gap that holds, in mm.
    double gap_mm() const { return gap_layers > 0 ? gap_layers * heights.layer_mm : contact_gap_mm; }
    /// How far a border all round makes the foot wider.
    double border_mm() const;
    bool operator==(const SupportOptions&) const = default;
};

/// Problem when the sizes make no sense.
std::optional<Problem> check_supports(const SupportOptions& options);

struct Post {
    Vec3 foot, tip; ///< ends of the axis
    double post_mm, tip_mm;
    double neck_mm = 0;   ///< height over which the tip widens
    double foot_mm = 0;   ///< wider by this all round on the bed
    bool on_part = false; ///< stands on the part, not on the bed
};

struct TreeSupport {
    std::vector<Vec3> tips; ///< middles of the discs that carry
    bool on_part = false;   ///< some foot of it stands on the part
};

struct Supports {
    std::vector<Post> posts;
    std::vector<TreeSupport> trees;
    TriMesh mesh;                ///< all of them, each a closed shell
    TriMesh brim;                ///< one layer high
    TriMesh raft;                ///< below z = 0: what stands on it is lifted by raft_mm when it is printed
    double raft_mm = 0;          ///< the raft's height with the gap over it
    std::vector<Vec3> carried;   ///< the places on the part that tips carry: of posts and trees alike
    size_t not_put = 0;          ///< places where one was put in by hand and has no room, or nothing to carry
    size_t left_out = 0;         ///< hanging patches that no post fits under; of trees: places that no tip reaches
    double kept_off_mm2 = 0;     ///< hangs on faces that no tip may touch
    double interface_mm2 = 0;    ///< of hanging surface lies over an interface
    double out_of_reach_mm2 = 0; ///< of trees: hanging surface further from every tip than one carries
    size_t count() const { return posts.size() + trees.size(); }
    /// "12 posts", "1 tree of 30 tips", "3 trees of 41 tips".
    std::string says_how_many() const;
    /// All that is printed for the part to stand.
    TriMesh everything() const;
};

/// The mesh stands on z = 0, up is +z.
Supports make_supports(const TriMesh& posed, const SupportOptions& options, const Task& task = {},
                       const SupportWishes& wishes = {});
/// Supports where they are `on`, and the brim or the raft that is wanted.
Supports supports_and_foot(const TriMesh& posed, bool on, const SupportOptions& options, const LayerHeights& heights,
                           const Task& task = {}, const SupportWishes& wishes = {});

} // namespace lp
