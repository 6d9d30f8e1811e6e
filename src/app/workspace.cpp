#include "app/workspace.h"

namespace lp {

void Workspace::set_active_part(PartId part) {
    if (part == active_part_) return;
    active_part_ = part;
    active_copy_ = 0;
    active_support_.reset();
    const bool cut = cut_height_.has_value(), finding = active_finding_.has_value();
    cut_height_.reset();
    active_finding_.reset();
    set_active_step({}); // it is of the other part
    emit active_part_changed();
    if (finding) emit finding_changed();
    if (cut) emit cut_changed();
}

void Workspace::select(const Pick& pick, bool add) {
    if (!pick) {
        if (!add) clear_selection();
        return;
    }
    if (!add) selection_.clear();
    auto there = std::find_if(selection_.begin(), selection_.end(), [&](const Pick& p) { return p.same(pick); });
    if (there != selection_.end() && add)
        selection_.erase(there);
    else
        selection_.push_back(pick);
    set_active_contact(std::nullopt);
    set_active_part(pick.part);
    emit selection_changed();
}

void Workspace::select_all(const std::vector<Pick>& picks) {
    selection_ = picks;
    set_active_contact(std::nullopt);
    if (!picks.empty()) set_active_part(picks.back().part);
    emit selection_changed();
}

void Workspace::set_active_step(StepId step) {
    if (step == active_step_) return;
    active_step_ = step;
    emit step_changed();
}

void Workspace::set_active_support(const std::optional<Vec3>& place) {
    if (place == active_support_) return;
    active_support_ = place;
    emit support_changed();
}

void Workspace::take_brush(const std::optional<Brush>& brush) {
    if (brush == brush_) return;
    brush_ = brush;
    emit brush_changed();
}

void Workspace::set_active_copy(int copy) {
    if (copy == active_copy_) return;
    active_copy_ = copy;
    emit copy_changed();
}

void Workspace::clear_selection() {
    set_active_contact(std::nullopt);
    set_active_step({});
    if (selection_.empty()) return;
    selection_.clear();
    emit selection_changed();
}

void Workspace::follow_picks(const std::function<std::optional<Pick>(const Pick&)>& now) {
    std::vector<Pick> followed;
    bool changed = false;
    for (const Pick& pick : selection_) {
        auto next = now(pick);
        changed = changed || !next || !next->same(pick);
        if (next) followed.push_back(*next);
    }
    selection_ = std::move(followed);
    if (changed) emit selection_changed();
}

void Workspace::set_stretch(Stretch stretch) {
    if (stretch == stretch_) return;
    stretch_ = stretch;
    active_support_.reset(); // it is in hand on the bed alone
    take_brush(std::nullopt);
    emit stretch_changed();
}

void Workspace::set_active_contact(const std::optional<ContactRef>& contact) {
    if (contact == active_contact_) return;
    active_contact_ = contact;
    emit contact_changed();
}

void Workspace::set_active_finding(const std::optional<FindingRef>& finding) {
    if (finding == active_finding_) return;
    active_finding_ = finding;
    finding_place_ = 0;
    emit finding_changed();
}

void Workspace::set_cut_height(std::optional<double> height) {
    if (height == cut_height_) return;
    cut_height_ = height;
    emit cut_changed();
}

void Workspace::set_section(const std::optional<Eigen::Vector4d>& plane) {
    if (plane == section_) return;
    section_ = plane;
    emit cut_changed();
}

void Workspace::isolate(PartId part, bool ghosts) {
    if (part == isolated_ && ghosts == ghosts_) return;
    isolated_ = part;
    ghosts_ = ghosts;
    emit cut_changed();
}

StepId Workspace::wound_back(PartId part) const {
    auto found = wound_back_.find(part);
    return found == wound_back_.end() ? StepId() : found->second;
}

void Workspace::wind_back(PartId part, StepId step) {
    if (step == wound_back(part)) return;
    if (step)
        wound_back_[part] = step;
    else
        wound_back_.erase(part);
    clear_selection();
    emit wound_changed();
}

void Workspace::set_finding_place(size_t place) {
    if (place == finding_place_) return;
    finding_place_ = place;
    emit finding_changed();
}

void Workspace::set_coloured(Coloured what) {
    if (what == coloured_) return;
    coloured_ = what;
    emit coloured_changed();
}

void Workspace::want_gap_map(bool wanted) {
    if (wanted == gap_map_wanted_) return;
    gap_map_wanted_ = wanted;
    emit gap_map_wanted_changed();
}

void Workspace::set_next_gauge(const GaugeLadder& ladder) {
    next_gauge_ = ladder;
    emit gauge_changed();
}

void Workspace::begin(PartId first_part) {
    cut_height_.reset();
    section_.reset();
    isolated_ = {};
    ghosts_ = false;
    wound_back_.clear();
    active_contact_.reset();
    active_finding_.reset();
    active_support_.reset();
    coloured_ = Coloured::Hanging;
    selection_.clear();
    active_part_ = first_part;
    emit selection_changed();
    emit active_part_changed();
    emit cut_changed();
}

} // namespace lp
