#include "app/results.h"
#include "project/mapped_region.h"
#include "project/standing.h"
#include <QTimer>
#include <utility>

namespace lp {

Results::Results(Document& document, Workspace& workspace, Worker& worker, QObject* parent)
    : QObject(parent), document_(document), workspace_(workspace), worker_(worker) {
    connect(&document, &Document::edited, this, [this](const Edit& edit) {
        for (const SingleEdit& one : edit.parts)
            tell_changed_ =
                tell_changed_ || one.get_if<SetPrinter>() || one.get_if<SetMaterial>() || one.get_if<SetFitGap>();
    });
    connect(&document, &Document::project_changed, this, [this] { shown_movement_.reset(); });
    connect(&workspace, &Workspace::selection_changed, this, &Results::measure_selection);
    connect(&workspace, &Workspace::stretch_changed, this, [this] {
        if (evaluation_ && !standing_of(*evaluation_).as_drawn()) measure_selection(); // they stand elsewhere there
    });
    for (auto fact : {&Workspace::contact_changed, &Workspace::gap_map_wanted_changed, &Workspace::stretch_changed})
        connect(&workspace, fact, this, &Results::map_gap);
    connect(this, &Results::analysed, this, &Results::map_gap);
    for (auto fact : {&Workspace::coloured_changed, &Workspace::active_part_changed, &Workspace::stretch_changed})
        connect(&workspace, fact, this, &Results::map_check);
    connect(this, &Results::evaluated, this, &Results::map_check);
    connect(&workspace, &Workspace::wound_changed, this, &Results::show_wound);
    connect(&workspace, &Workspace::finding_changed, this, &Results::try_cures);
    connect(this, &Results::analysed, this, &Results::try_cures);
    // What another stretch shows is worked out before the rest.
    connect(&workspace, &Workspace::stretch_changed, this, [this] {
        const bool more = std::any_of(analyses().begin(), analyses().end(), [this](const AnalysisRow& row) {
            return row.dear && std::count(row.shown_at.begin(), row.shown_at.end(), workspace_.stretch());
        });
        if (evaluation_is_current() && (more || !analysis_is_current())) analyse();
    });
}

void Results::make() {
    previewed_.reset();
    begin_making(document_.project());
}

void Results::begin_making(const ProjectPtr& wanted) {
    worker_.start(Lane::Snapshot, "evaluation", [this, project = wanted](const Task& task) {
        auto evaluation = evaluator_.make(project, task);
        if (!evaluation) return;
        auto shared = std::make_shared<const Evaluation>(std::move(*evaluation));
        worker_.post([this, shared] {
            if (!previewed_ || shared->project == previewed_) take_evaluation(shared);
        });
    });
}

void Results::preview(const ProjectPtr& project) {
    previewed_ = project;
    begin_making(project);
}

void Results::end_preview() {
    if (previewed_) make();
}

namespace {

/// The face or edge of one of these bodies that was picked on the body as it was before; nothing when it is gone.
std::optional<Pick> found_again(const Pick& pick, const Body& before, const std::vector<StepBody>& now) {
    for (size_t i = 0; i < now.size(); ++i) // nothing happened to it
        if (now[i].body.weight().of == before.weight().of) {
            Pick same = pick;
            same.body = i;
            return same;
        }
    const bool face = pick.kind == Pick::Kind::Face;
    const Tessellation& t = before.tessellation();
    if (pick.index >= (face ? t.faces.size() : t.edges.size()) || (!face && !before.is_exact())) return std::nullopt;
    FaceReference of_face;
    EdgeReference of_edge;
    if (face)
        of_face = make_reference(before, pick.index, pick.point);
    else
        of_edge = make_edge_reference(before, pick.index, pick.point);
    auto in = [&](size_t i) -> std::optional<Pick> {
        const Body& body = now[i].body;
        if (!face && !body.is_exact()) return std::nullopt;
        auto index = face ? resolve_reference(body, of_face) : resolve_edge(body, of_edge);
        if (!index) return std::nullopt;
        Pick found{pick.kind, pick.part, i, *index, pick.point};
        const auto& edges = body.tessellation().edges;
        found.point = face ? place_of(body, of_face) : edges[*index].points[edges[*index].points.size() / 2];
        return found;
    };
    if (pick.body < now.size())
        if (auto found = in(pick.body)) return found;
    for (size_t i = 0; i < now.size(); ++i)
        if (i != pick.body)
            if (auto found = in(i)) return found;
    return std::nullopt;
}

} // namespace

void Results::take_evaluation(std::shared_ptr<const Evaluation> evaluation) {
    std::vector<std::optional<Body>> picked; // as they were
    for (const Pick& pick : workspace_.selection()) {
        const Body* body = body_of(pick);
        picked.push_back(body ? std::optional(*body) : std::nullopt);
    }
    auto before = std::exchange(evaluation_, std::move(evaluation));
    movement_keys_.clear();
    tell_what_changed(before.get());
    // Faces and edges may be numbered anew: what is chosen means the same thing afterwards, or is let go.
    size_t next = 0;
    workspace_.follow_picks([&](const Pick& pick) -> std::optional<Pick> {
        const auto& was = picked[next++];
        if (pick.kind == Pick::Kind::Body)
            return document_.project()->part(pick.part) ? std::optional(pick) : std::nullopt;
        const auto* bodies = bodies_of(pick.part);
        return was && bodies ? found_again(pick, *was, *bodies) : std::nullopt;
    });
    measure_selection();
    emit evaluated();
    if (movement_asked_ && evaluation_is_current()) check_movement(*movement_asked_);
    // The picture first: what is left to prove, and what can be said of the parts, waits until it is drawn.
    QTimer::singleShot(0, this, [this, made = evaluation_] {
        if (made != evaluation_ || !evaluation_is_current()) return;
        prove();
        analyse();
    });
}

void Results::prove() {
    worker_.start(Lane::Shown, "proof", [this, evaluation = evaluation_](const Task& task) {
        if (evaluator_.settle(*evaluation, task)) return;
        worker_.post([this, evaluation] {
            if (evaluation == evaluation_) make();
        });
    });
}

/// What the stretch shows comes first.
void Results::analyse() {
    Wanted wanted{workspace_.stretch(), workspace_.active_part()};
    worker_.start(Lane::Shown, "analysis", [this, evaluation = evaluation_, wanted](const Task& task) {
        auto take = [this, evaluation](const Analysis& analysis, bool whole) {
            worker_.post([this, evaluation, whole, result = std::make_shared<const Analysis>(analysis)] {
                if (evaluation != evaluation_) return;
                analysis_ = result;
                if (whole) analysed_project_ = evaluation->project;
                emit analysed();
            });
        };
        auto analysis =
            analyser_.analyse(*evaluation, task, wanted, [&](const Analysis& first) { take(first, false); });
        if (analysis) take(*analysis, true);
    });
}

void Results::tell_what_changed(const Evaluation* before) {
    if (!std::exchange(tell_changed_, false) || !before || !evaluation_) return;
    QStringList names;
    for (const PartResult& part : evaluation_->parts) {
        const PartResult* old = before->part(part.part);
        if (old && old->key != part.key) names << QString::fromStdString(part.name);
    }
    size_t same = evaluation_->parts.size() - size_t(names.size());
    document_.say(names.isEmpty()
                      ? QString("No part changes by it.")
                      : QString("Changed by it: %1. %2 stay as they were.").arg(names.join(", ")).arg(same));
}

const std::vector<StepBody>* Results::bodies_of(PartId part) const {
    const PartResult* result = evaluation_ ? evaluation_->part(part) : nullptr;
    if (!result) return nullptr;
    if (StepId step = workspace_.wound_back(part))
        if (auto after = result->after.find(step); after != result->after.end()) return &after->second;
    return &result->bodies;
}

/// Triangles of what was only passed through are made now, off the interface thread.
void Results::show_wound() {
    worker_.start(Lane::Shown, "wound back",
                  [this, evaluation = evaluation_, wound = workspace_.all_wound_back()](const Task&) {
                      for (const auto& [part, step] : wound) {
                          const PartResult* result = evaluation ? evaluation->part(part) : nullptr;
                          auto after = result ? result->after.find(step) : decltype(result->after.find(step))();
                          if (!result || after == result->after.end()) continue;
                          for (const StepBody& body : after->second) body.body.shared_tessellation();
                      }
                      worker_.post([this] { emit evaluated(); });
                  });
}

const Body* Results::body_of(const Pick& pick) const {
    const auto* bodies = bodies_of(pick.part);
    return bodies && pick.body < bodies->size() ? &(*bodies)[pick.body].body : nullptr;
}

const Tessellation* Results::tessellation_of(const Pick& pick) const {
    const Body* body = body_of(pick);
    return body ? &body->tessellation() : nullptr;
}

const FaceInfo* Results::face_of(const Pick& pick) const {
    const Tessellation* t = pick.kind == Pick::Kind::Face ? tessellation_of(pick) : nullptr;
    return t && pick.index < t->faces.size() ? &t->faces[pick.index] : nullptr;
}

const EdgeInfo* Results::edge_of(const Pick& pick) const {
    const Tessellation* t = pick.kind == Pick::Kind::Edge ? tessellation_of(pick) : nullptr;
    return t && pick.index < t->edges.size() ? &t->edges[pick.index] : nullptr;
}

Transform Results::place_of(PartId part) const {
    const PartResult* result = evaluation_ ? evaluation_->part(part) : nullptr;
    return result ? result->place : Transform::Identity();
}

Transform Results::pose_of(PartId part) const {
    PartPtr its = document_.project()->part(part);
    const PartResult* result = evaluation_ ? evaluation_->part(part) : nullptr;
    if (!its || !result) return Transform::Identity();
    return pose_of_part(*its, *result, evaluation_->values);
}

MeasuredThing Results::thing_of(const Pick& pick) const {
    MeasuredThing thing{pick.part, {}};
    const Body* body = body_of(pick);
    if (body && pick.kind == Pick::Kind::Face)
        thing.reference = GeometryItem(make_reference(*body, pick.index, pick.point));
    if (body && pick.kind == Pick::Kind::Edge && body->is_exact())
        thing.reference = GeometryItem(make_edge_reference(*body, pick.index, pick.point));
    return thing;
}

const ContactResult* Results::active_contact() const {
    return analysis_ && workspace_.active_contact() ? analysis_->contact(*workspace_.active_contact()) : nullptr;
}

void Results::measure_selection() {
    uint64_t question = ++measure_asked_;
    selection_measure_.reset();
    const auto& picks = workspace_.selection();
    bool wall = picks.size() == 1 && picks[0].kind == Pick::Kind::Face;
    if (!wall && picks.size() != 2) return;
    std::vector<Measurable> things;
    for (const Pick& pick : picks) {
        Measurable thing;
        const Body* body = body_of(pick);
        const Tessellation* t = tessellation_of(pick);
        if (!body || !t) return;
        thing.body = *body;
        thing.place = stands(pick.part, pick.body) * place_of(pick.part);
        thing.index = pick.index;
        thing.kind = pick.kind == Pick::Kind::Face   ? Measurable::Kind::Face
                     : pick.kind == Pick::Kind::Edge ? Measurable::Kind::Edge
                                                     : Measurable::Kind::Whole;
        if (thing.kind == Measurable::Kind::Face && pick.index >= t->faces.size()) return;
        if (thing.kind == Measurable::Kind::Edge && pick.index >= t->edges.size()) return;
        if (thing.kind == Measurable::Kind::Whole)
            if (const PartResult* part = evaluation_->part(pick.part); part && part->bodies.size() > 1 && part->mesh)
                thing.body = Body::from_mesh(*part->mesh);
        things.push_back(std::move(thing));
    }
    worker_.start(Lane::Shown, "measure", [this, question, things, wall, point = picks[0].point](const Task&) {
        auto found = wall ? thickness_at(things[0].body, things[0].index, point)
                          : std::optional(measure_between(things[0], things[1]));
        worker_.post([this, question, found] {
            if (question != measure_asked_) return;
            selection_measure_ = found;
            emit measured();
        });
    });
}

void Results::compare_variants(PartId part) {
    worker_.start(Lane::Asked, "variants", [this, part, project = document_.project()](const Task& task) {
        std::vector<VariantFigures> all;
        PartPtr its = project->part(part);
        if (!its) return;
        std::vector<Variant> variants{{}};
        variants.insert(variants.end(), its->variants.begin(), its->variants.end());
        for (size_t i = 0; i < variants.size(); ++i) {
            task.tell("Comparing variants of " + its->name, double(i) / double(variants.size()));
            auto with = std::make_shared<const Project>(i ? with_variant(*project, part, variants[i]) : *project);
            auto made = evaluator_.evaluate(with, task);
            if (!made) return; // stopped
            all.push_back({variants[i].name, figures_of(*made, part, task)});
        }
        if (task.stopped()) return;
        worker_.post([this, part, all] { emit variants_compared(part, all); });
    });
}

/// Once the findings are those of the parts as they are.
void Results::try_cures() {
    const auto& ref = workspace_.active_finding();
    if (!ref && cures_of_) {
        ++*newest_cures_;
        cures_of_.reset();
        cures_.clear();
        trying_cures_ = false;
        emit cures_tried();
    }
    if (!ref || !analysis_is_current() || !evaluation_is_current()) return;
    // Made again for the same snapshot, after something else was shown for a moment, it is the same question.
    if (cures_of_ && cures_of_->first->project == evaluation_->project && cures_of_->second == *ref) return;
    cures_of_.emplace(evaluation_, *ref);
    cures_.clear();
    const uint64_t mine = ++*newest_cures_;
    const auto found = findings_of_part(*evaluation_, analysis_.get(), ref->part);
    const auto finding = std::find_if(found.begin(), found.end(), [&](const PartFinding& f) { return f.ref == *ref; });
    trying_cures_ = finding != found.end();
    emit cures_tried();
    if (!trying_cures_) return;
    worker_.start(Lane::Asked, "cures",
                  [this, mine, newest = newest_cures_, asked = *cures_of_, finding = *finding](const Task& task) {
                      Task own = task;
                      own.progress = [mine, newest, &task](const std::string& doing, double share) {
                          if (*newest != mine) return task.cancel.cancel(); // nobody waits for it any more
                          task.tell(doing, share);
                      };
                      if (*newest != mine) return;
                      auto tried = tried_cures(evaluator_, *asked.first, finding, own);
                      worker_.post([this, asked, tried] {
                          if (!cures_of_ || cures_of_->first != asked.first || !(cures_of_->second == asked.second))
                              return;
                          trying_cures_ = false;
                          if (tried)
                              cures_ = *tried;
                          else
                              cures_of_.reset(); // stopped: looked for again when it is looked at again
                          emit cures_tried();
                      });
                  });
}

static const KeptMovement* kept_movement(const Project& project, MovementId id) {
    for (const KeptMovement& movement : project.movements)
        if (movement.id == id) return &movement;
    return nullptr;
}

void Results::check_movement(MovementId id) {
    const KeptMovement* found = kept_movement(*document_.project(), id);
    if (!found) return;
    movement_asked_.reset();
    if (!evaluation_is_current()) {
        movement_asked_ = id;
        return;
    }
    lead(id, [movement = *found, evaluation = evaluation_](const Task& task) {
        return run_movement(*evaluation, movement, task);
    });
}

void Results::check_movement_as_printed(MovementId id) {
    const KeptMovement* found = kept_movement(*document_.project(), id);
    if (!found) return;
    if (!evaluation_is_current() || !analysis_is_current())
        return document_.say("The parts are still being made. Print them in practice in a moment.", true);
    lead(id, [movement = *found, evaluation = evaluation_, analysis = analysis_](const Task& task) {
        return run_movement_as_printed(*evaluation, *analysis, movement, task);
    });
}

void Results::lead(MovementId id, std::function<Expected<MovementOutcome>(const Task&)> run) {
    worker_.start(Lane::Asked, "movement", [this, id, run, evaluation = evaluation_](const Task& task) {
        auto outcome = run(task);
        worker_.post([this, id, evaluation, outcome] {
            if (!outcome) {
                movements_.erase(id);
                if (outcome.error().code != ProblemCode::Cancelled)
                    document_.say(QString::fromStdString(outcome.error().text()), true);
            } else {
                movements_[id] = {evaluation->project, std::make_shared<const MovementOutcome>(*outcome)};
            }
            emit movement_checked(id);
        });
    });
}

const MovementOutcome* Results::movement_outcome(MovementId id) const {
    auto found = movements_.find(id);
    return found == movements_.end() ? nullptr : found->second.outcome.get();
}

Led Results::led_of(const ContactResult& contact) const {
    std::vector<const MovementOutcome*> checked;
    for (const auto& [id, movement] : movements_)
        if (movement_is_current(id)) checked.push_back(movement.outcome.get());
    return evaluation_ ? led(*evaluation_, contact, checked) : Led::NotNeeded;
}

/// By what it comes of: a colour, or where it was left, does not make it old.
bool Results::movement_is_current(MovementId id) const {
    const auto found = movements_.find(id);
    if (found == movements_.end() || !evaluation_) return false;
    const auto& [project, outcome] = found->second;
    const Project& now = *evaluation_->project;
    const KeptMovement* kept = kept_movement(now, id);
    if (!kept) return false;
    const auto [key, fresh] = movement_keys_.try_emplace(id, 0);
    if (fresh) key->second = movement_key(*evaluation_, *kept);
    const bool printed_alike =
        project->parts == now.parts && project->printer == now.printer && project->material == now.material;
    return outcome->key == key->second && (!outcome->printed || printed_alike);
}

void Results::show_movement(MovementId id, std::optional<double> position) {
    if (!position && !shown_movement_) return;
    shown_movement_.reset();
    if (position) shown_movement_ = std::pair(id, *position);
    emit movement_shown();
}

std::optional<double> Results::shown_position(MovementId id) const {
    return shown_movement_ && shown_movement_->first == id ? std::optional(shown_movement_->second) : std::nullopt;
}

Transform Results::stands(PartId part, size_t body) const {
    if (!evaluation_ || workspace_.stretch() != Stretch::Fit) return Transform::Identity();
    return standing_of(*evaluation_).of(part, body);
}

Transform Results::shifted(PartId part, size_t body) const {
    if (!evaluation_ || !shown_movement_ || workspace_.stretch() != Stretch::Fit) return Transform::Identity();
    const Standing& standing = standing_of(*evaluation_);
    if (!standing.leads(shown_movement_->first, part, body)) return Transform::Identity();
    return standing.with(shown_movement_->first, shown_movement_->second).of(part, body) *
           standing.of(part, body).inverse();
}

namespace {

/// Upright, across the usual look from the front right; the half towards the viewer goes.
Eigen::Vector4d section_through(const Vec3& place) {
    Vec3 away = Vec3(-0.5, 0.75, 0).normalized();
    return {away.x(), away.y(), 0, -away.dot(place)};
}

} // namespace

/// A joint is closed to the eye: while its gap is mapped, the half towards the viewer is cut away.
void Results::look_into_joint() {
    const ContactResult* c =
        workspace_.gap_map_wanted() && workspace_.stretch() == Stretch::Fit ? active_contact() : nullptr;
    if (c && c->gap && (!workspace_.section() || section_for_map_)) {
        section_for_map_ = true;
        // Through the smallest gap, until the map tells more; it moves when the new map is there.
        if (gap_map_.empty()) workspace_.set_section(section_through(c->gap->at_b));
    } else if (!c && section_for_map_) {
        section_for_map_ = false;
        workspace_.set_section(std::nullopt);
    }
}

void Results::map_gap() {
    look_into_joint();
    uint64_t question = ++gap_map_asked_;
    const ContactResult* c =
        workspace_.gap_map_wanted() && workspace_.stretch() == Stretch::Fit && analysis_is_current() ? active_contact()
                                                                                                     : nullptr;
    if (!c) {
        if (gap_map_.empty()) return;
        gap_map_.clear();
        emit gap_map_changed();
        return;
    }
    worker_.start(Lane::Shown, "gap map", [this, question, evaluation = evaluation_, contact = *c](const Task& task) {
        task.tell("Mapping the gap", 0.3);
        auto maps = gap_maps(*evaluation, contact, task);
        Box3 region = contact.gap ? mapped_region(maps, *evaluation, contact.gap->at_b) : Box3();
        worker_.post([this, question, maps, region] {
            if (question != gap_map_asked_) return;
            gap_map_ = maps;
            if (section_for_map_ && !region.isEmpty()) workspace_.set_section(section_through(region.center()));
            emit gap_map_changed();
        });
    });
}

std::optional<Original> Results::original() const {
    return evaluation_ ? original_of(*evaluation_, workspace_.active_part()) : std::nullopt;
}

void Results::map_check() {
    using Coloured = Workspace::Coloured;
    const Coloured what = workspace_.coloured();
    const bool wanted = what != Coloured::Hanging && workspace_.stretch() == Stretch::Check;
    const PartResult* part = wanted && evaluation_ ? evaluation_->part(workspace_.active_part()) : nullptr;
    std::optional<Original> from;
    if (part && what == Coloured::Deviation) from = original();
    if (!part || part->bodies.empty() || (what == Coloured::Deviation && !from)) {
        check_map_of_.reset();
        mapping_check_ = false;
        if (check_map_.empty()) return;
        check_map_.clear();
        emit check_map_changed();
        return;
    }
    const double nozzle = evaluation_->project->printer.nozzle_mm;
    const std::tuple asked{part->key, from ? from->key : 0, nozzle};
    if (check_map_of_ == asked) return;
    check_map_of_ = asked;
    mapping_check_ = true;
    check_map_.clear();
    emit check_map_changed();
    worker_.start(
        Lane::Shown, "check map",
        [this, asked, nozzle, from = std::move(from), evaluation = evaluation_, id = part->part](const Task& task) {
            const PartResult& part = *evaluation->part(id);
            std::vector<std::shared_ptr<const SurfaceMap>> maps;
            for (SurfaceMap& map : from ? deviation_maps(part, *from, task) : wall_maps(part, nozzle, task))
                maps.push_back(std::make_shared<const SurfaceMap>(std::move(map)));
            worker_.post([this, asked, maps = std::move(maps)]() mutable {
                if (check_map_of_ != asked) return;
                check_map_ = std::move(maps);
                mapping_check_ = false;
                emit check_map_changed();
            });
        });
}

} // namespace lp
