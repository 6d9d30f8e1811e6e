#include "bed/supports.h"
#include "bed/brim.h"
#include "bed/posts.h"
#include "bed/raft.h"
#include "bed/support_interface.h"
#include "bed/trees.h"

namespace lp {

const char* word_of(SupportKind kind) {
    return kind == SupportKind::Trees ? "tree" : "post";
}

std::optional<SupportKind> support_kind_called(const std::string& word) {
    for (SupportKind kind : {SupportKind::Posts, SupportKind::Trees})
        if (word == word_of(kind)) return kind;
    return std::nullopt;
}

double SupportOptions::border_mm() const {
    if (raft_layers > 0) return raft_margin_mm;
    return brim_place == BrimPlace::Outside || brim_place == BrimPlace::Both ? brim_mm : 0;
}

std::string Supports::says_how_many() const {
    auto many = [](size_t n, const std::string& what) { return std::to_string(n) + " " + what + (n == 1 ? "" : "s"); };
    if (trees.empty()) return many(posts.size(), "post");
    size_t tips = 0;
    for (const TreeSupport& tree : trees) tips += tree.tips.size();
    return many(trees.size(), "tree") + " of " + many(tips, "tip");
}

std::optional<Problem> check_supports(const SupportOptions& o) {
    if (o.spacing_mm >= 0.5 && o.spacing_mm <= 100 && o.post_mm >= 0.2 && o.post_mm <= 50 && o.tip_mm >= 0.1 &&
        o.tip_mm <= o.post_mm && o.neck_mm >= 0.2 && o.neck_mm <= 20 && o.foot_mm >= 0 && o.foot_mm <= 10 &&
        o.gap_layers >= 0 && o.gap_layers <= 10 && o.contact_gap_mm >= 0 && o.contact_gap_mm <= 5 && o.brim_mm >= 0 &&
        o.brim_mm <= 50 && o.brim_gap_mm >= 0 && o.brim_gap_mm <= 5 && o.raft_layers >= 0 && o.raft_layers <= 20 &&
        o.interface_layers >= 0 && o.interface_layers <= 20)
        return std::nullopt;
    return Problem{
        ProblemCode::Range, "These support sizes make no sense.",
        "Gap 0 to 5 mm or 10 layers, posts 0.2 to 50 mm apart by 0.5 mm or more, tips thinner than posts, necks of 0.2 "
        "to 20 mm, feet wider by up to 10 mm, a brim of 0 to 50 mm with "
        "0 to 5 mm round the part, a raft and an interface of up to 20 layers."};
}

Supports make_supports(const TriMesh& posed, const SupportOptions& options, const Task& task,
                       const SupportWishes& wishes) {
    if (posed.empty()) return {};
    Supports made = options.kind == SupportKind::Trees ? make_trees(posed, options, task, wishes)
                                                       : make_posts(posed, options, task, wishes);
    made.kept_off_mm2 = hanging_kept_off(posed, options.overhang_limit_deg, wishes.marks);
    if (options.interface_layers > 0 && made.count() && !task.stopped())
        add_interface(posed, options, wishes.marks, made, task);
    return made;
}

Supports supports_and_foot(const TriMesh& posed, bool on, const SupportOptions& options, const LayerHeights& heights,
                           const Task& task, const SupportWishes& wishes) {
    Supports made = on ? make_supports(posed, options, task, wishes) : Supports();
    if (options.raft_layers > 0) {
        made.raft_mm = heights.bottom(size_t(options.raft_layers)) + options.gap_mm();
        made.raft = make_raft(posed, made.mesh, made.raft_mm, options.gap_mm(), heights.first_mm, task);
        if (made.raft.empty()) made.raft_mm = 0;
    } else {
        made.brim =
            make_brim(posed, {options.brim_mm, options.brim_place, options.brim_gap_mm}, heights.first_mm, task);
    }
    return made;
}

TriMesh Supports::everything() const {
    TriMesh all = mesh;
    append(all, brim);
    append(all, raft);
    return all;
}

} // namespace lp
