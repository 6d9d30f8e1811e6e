// The session's work on fits: movements led along their paths, gap maps, what a changed card or fit reached.
#include "app/run_aside.h"
#include "app/session.h"
#include "project/mapped_region.h"

namespace lp {
namespace {

/// Upright, across the usual look from the front right; the half towards the viewer goes.
Eigen::Vector4d section_through(const Vec3& place) {
    Vec3 away = Vec3(-0.5, 0.75, 0).normalized();
    return {away.x(), away.y(), 0, -away.dot(place)};
}

} // namespace

void Session::check_movement(uint64_t id) {
    auto found = std::find_if(project()->movements.begin(), project()->movements.end(),
                              [&](const KeptMovement& m) { return m.id == id; });
    if (found == project()->movements.end()) return;
    if (!evaluation_is_current()) return say("The parts are still being made. Check it again in a moment.", true);
    start_job({[this, id, movement = *found, evaluation = evaluation_](const Task& task) {
                   auto outcome = run_movement(*evaluation, movement, task);
                   post([this, id, evaluation, outcome] {
                       if (!outcome) {
                           movements_.erase(id);
                           if (outcome.error().code != ProblemCode::Cancelled)
                               say(QString::fromStdString(outcome.error().text()), true);
                       } else {
                           movements_[id] = {evaluation->project, std::make_shared<const MovementOutcome>(*outcome)};
                       }
                       emit movement_checked(id);
                   });
               },
               false});
}

const MovementOutcome* Session::movement_outcome(uint64_t id) const {
    auto found = movements_.find(id);
    return found == movements_.end() ? nullptr : found->second.outcome.get();
}

bool Session::movement_is_current(uint64_t id) const {
    auto found = movements_.find(id);
    return found != movements_.end() && found->second.project == project();
}

void Session::show_movement(uint64_t id, std::optional<double> position) {
    const MovementOutcome* outcome = movement_outcome(id);
    if (!outcome) return;
    shown_movement_.reset();
    std::optional<Transform> by;
    if (position) {
        by = outcome->path.at(*position);
        shown_movement_ = ShownMovement{outcome->moving.part, outcome->moving.body, *by};
    }
    emit movement_shown(outcome->moving.part, outcome->moving.body, by);
}

std::optional<Transform> Session::shown_at(uint64_t part, size_t body) const {
    bool it =
        shown_movement_ && shown_movement_->part == part && (!shown_movement_->body || *shown_movement_->body == body);
    if (!it || stretch_ != Stretch::Fit) return std::nullopt;
    return shown_movement_->by;
}

void Session::want_gap_map(bool wanted) {
    gap_map_wanted_ = wanted;
    map_gap();
    emit gap_map_changed();
}

/// A joint is closed to the eye: while its gap is mapped, the half towards the viewer is cut away.
void Session::look_into_joint() {
    bool there = gap_map_wanted_ && stretch_ == Stretch::Fit && analysis_ && active_contact_ >= 0 &&
                 size_t(active_contact_) < analysis_->contacts.size();
    if (there && (!section_ || section_for_map_)) {
        const ContactResult& c = analysis_->contacts[size_t(active_contact_)];
        if (!evaluation_ || !c.gap) return;
        auto box_of = [&](uint64_t id, const std::optional<size_t>& body) {
            const PartResult* part = evaluation_->part(id);
            if (!part) return Box3();
            Box3 box = body && *body < part->bodies.size() ? part->bodies[*body].body.box() : part->box;
            return box.transformed(part->place);
        };
        // Through the middle of where both are, until the map tells more.
        Box3 both = box_of(c.part_a, c.body_a).intersection(box_of(c.part_b, c.body_b));
        section_for_map_ = true;
        if (!gap_map_.empty()) return; // it moves when the new map is there
        section_ = section_through(both.isEmpty() ? c.gap->at_b : both.center());
        emit cut_changed();
    } else if (!there && section_for_map_) {
        section_for_map_ = false;
        section_.reset();
        emit cut_changed();
    }
}

void Session::map_gap() {
    look_into_joint();
    uint64_t question = ++gap_map_asked_;
    bool there = gap_map_wanted_ && stretch_ == Stretch::Fit && analysis_ && evaluation_ && analysis_is_current() &&
                 active_contact_ >= 0 && size_t(active_contact_) < analysis_->contacts.size();
    if (!there) {
        if (gap_map_.empty()) return;
        gap_map_.clear();
        emit gap_map_changed();
        return;
    }
    start_job({[this, question, evaluation = evaluation_,
                contact = analysis_->contacts[size_t(active_contact_)]](const Task& task) {
                   task.tell("Mapping the gap", 0.3);
                   auto maps = gap_maps(*evaluation, contact, task);
                   Box3 region = contact.gap ? mapped_region(maps, *evaluation, contact.gap->at_b) : Box3();
                   post([this, question, maps, region] {
                       if (question != gap_map_asked_) return;
                       gap_map_ = maps;
                       if (section_for_map_ && !region.isEmpty()) {
                           section_ = section_through(region.center());
                           emit cut_changed();
                       }
                       emit gap_map_changed();
                   });
               },
               false});
}

void Session::tell_what_changed(const Evaluation* before) {
    if (!std::exchange(tell_changed_, false) || !before || !evaluation_) return;
    QStringList names;
    for (const PartResult& part : evaluation_->parts) {
        const PartResult* old = before->part(part.part);
        if (old && old->key != part.key) names << QString::fromStdString(part.name);
    }
    size_t same = evaluation_->parts.size() - size_t(names.size());
    say(names.isEmpty() ? QString("No part changes by it.")
                        : QString("Changed by it: %1. %2 stay as they were.").arg(names.join(", ")).arg(same));
}

} // namespace lp
