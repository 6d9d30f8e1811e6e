#include "project/analysis.h"
#include "base/hash.h"
#include "base/text.h"
#include "project/findings_as_it_lies.h"
#include "project/layer_heights.h"
#include "project/marked_faces.h"
#include "steps/bodies_of.h"
#include <algorithm>
#include <nlohmann/json.hpp>

namespace lp {
namespace {

uint64_t card_key(const PrinterCard& printer, const MaterialCard& material) {
    nlohmann::json json{printer, material};
    return Hasher().add(std::string_view(json.dump())).value();
}

} // namespace

const PartAnalysis* Analysis::part(PartId id) const {
    for (const auto& p : parts)
        if (p->part == id) return p.get();
    return nullptr;
}

const ContactResult* Analysis::contact(const ContactRef& ref) const {
    for (const ContactResult& c : contacts)
        if (c.ref() == ref) return &c;
    return nullptr;
}

Transform pose_of_part(const Part& part, const PartResult& result, const ParameterValues& values, std::string* note) {
    if (!result.mesh) return Transform::Identity();
    Vec3 down = part.pose.down;
    if (part.pose.face) {
        const auto found = resolve_among(bodies_of(result.bodies), *part.pose.face);
        if (found)
            down = result.bodies[found->body].body.tessellation().faces[found->index].direction;
        else if (note)
            *note = found.error().text();
    }
    Vec3 turn = Vec3::Zero();
    for (int k = 0; k < 3; ++k)
        if (auto angle = evaluate_expression(part.pose.turn[k], QuantityKind::Angle, values)) turn[k] = *angle;
    return pose_transform(*result.mesh, down, turn);
}

const std::vector<AnalysisRow>& analyses() {
    using K = AnalysisKind;
    using S = Stretch;
    static const std::vector<AnalysisRow> rows{
        {K::Measures, "Measuring", 1, false, {S::Shape, S::Fit}},
        {K::Contacts, "Measuring contacts", 6, false, {S::Fit}},
        {K::Inspection, "Checking", 3, true, {S::Check, S::Bed}},
        {K::Supports, "Putting supports under", 2, true, {S::Bed, S::Check}},
        {K::Plan, "Laying in layers", 6, true, {S::Shape, S::Check, S::Bed, S::Export}},
        {K::Walls, "Measuring walls", 6, true, {S::Check}, true},
        {K::Beds, "Looking at the beds", 1, false, {S::Bed}}, // of what is known about the parts: it comes last
    };
    return rows;
}

/// Results by what went into them; what the last rounds did not use is forgotten.
struct Analyser::Cache {
    static constexpr uint64_t rounds_kept = 24; ///< undo and redo over the last edits stay instant
    template <class What> struct Kept {
        std::shared_ptr<const What> what;
        uint64_t used = 0;
    };
    struct Laid {
        std::optional<LayerPlan> plan;
        std::string problem;
    };
    struct Inspected {
        Inspection inspection;
        std::vector<std::shared_ptr<const SurfaceMap>> hanging;
        std::vector<FlaredRim> rims;
    };
    struct Propped {
        Supports supports;
        std::shared_ptr<const Tessellation> shape;
    };
    ContactLedger ledger;
    std::map<uint64_t, Kept<Inspected>> inspections;
    std::map<uint64_t, Kept<std::vector<JointGap>>> joints;
    std::map<uint64_t, Kept<WallFacts>> walls;
    std::map<uint64_t, Kept<Propped>> supports;
    std::map<uint64_t, Kept<Laid>> plans;
    std::map<uint64_t, Kept<std::vector<PartPause>>> pauses;
    std::map<uint64_t, Kept<std::vector<BedTrouble>>> beds;
    uint64_t round = 0;
    Counts counts;
    Analysis last; ///< stands in for what is not worked out yet

    /// From the table, or made; nothing when it was stopped.
    template <class What, class Make>
    std::shared_ptr<const What> find(std::map<uint64_t, Kept<What>>& table, uint64_t key, const Task& task, Make make) {
        if (auto found = table.find(key); found != table.end()) {
            found->second.used = round;
            ++counts.reused;
            return found->second.what;
        }
        auto what = std::make_shared<const What>(make());
        if (task.stopped()) return nullptr;
        ++counts.made;
        table[key] = {what, round};
        return what;
    }
    void forget_old() {
        auto old = [this](const auto& entry) { return entry.second.used + rounds_kept < round; };
        std::erase_if(inspections, old);
        std::erase_if(supports, old);
        std::erase_if(plans, old);
        std::erase_if(pauses, old);
        std::erase_if(walls, old);
        std::erase_if(joints, old);
        std::erase_if(beds, old);
    }
};

namespace {

/// One round over an evaluation.
template <class Cache> class Round {
  public:
    Round(const Evaluation& evaluation, Cache& cache, const Task& task)
        : evaluation_(evaluation), project_(*evaluation.project), cache_(cache), task_(task), result_(cache.last) {
        // Only what is still there stands in for what is not worked out yet.
        std::vector<std::shared_ptr<const PartAnalysis>> parts;
        for (size_t i = 0; i < project_.parts.size(); ++i)
            if (is_printed(i)) parts.push_back(known(project_.parts[i]->id));
        std::erase(parts, nullptr);
        result_.parts = std::move(parts);
    }

    bool work(const AnalysisRow& row, std::optional<size_t> part) {
        if (task_.stopped()) return false;
        switch (row.kind) {
        case AnalysisKind::Measures:
            result_.measures.clear();
            for (const KeptMeasure& measure : project_.measures) {
                if (task_.stopped()) return false;
                result_.measures.push_back(measure_kept(evaluation_, measure));
            }
            return true;
        case AnalysisKind::Contacts:
            result_.contacts = cache_.ledger.contacts(evaluation_, task_);
            return !task_.stopped();
        case AnalysisKind::Beds:
            return look_at_beds();
        default:
            return part && of_part(row.kind, *part);
        }
    }

    Analysis answer() {
        std::vector<std::shared_ptr<const PartAnalysis>> in_order;
        result_.time_s = result_.mass_g = result_.filament_mm = result_.price = 0;
        result_.energy_kwh = result_.energy_price = 0;
        for (const PartPtr& part : project_.parts)
            if (auto its = known(part->id)) {
                in_order.push_back(its);
                if (!its->plan) continue;
                result_.time_s += its->plan->time_s * part->quantity;
                result_.mass_g += its->plan->mass_g * part->quantity;
                result_.filament_mm += its->plan->filament_mm * part->quantity;
                result_.price += its->plan->price * part->quantity;
                result_.energy_kwh += its->plan->energy_kwh * part->quantity;
                result_.energy_price += its->plan->energy_price * part->quantity;
            }
        result_.parts = std::move(in_order);
        return result_;
    }

    /// Whether a thin wall or a narrow gap of it is told: that must stay true.
    bool tells_walls(PartId id) const {
        auto its = known(id);
        return its && its->inspection.walls && (its->inspection.walls->thin || its->inspection.walls->narrow);
    }
    bool is_printed(size_t i) const { return !project_.parts[i]->stand_in && evaluation_.parts[i].mesh; }

  private:
    std::shared_ptr<const PartAnalysis> known(PartId id) const {
        for (const auto& p : result_.parts)
            if (p->part == id) return p;
        return nullptr;
    }

    bool look_at_beds() {
        result_.beds.clear();
        Hasher key(1);
        const BedSettings& beds = project_.beds;
        bool put = beds.one_at_a_time;
        key.add(beds.one_at_a_time).add(beds.spacing_mm);
        key.add(project_.printer.head_reach_mm).add(project_.printer.head_passes_mm);
        for (size_t i = 0; i < project_.parts.size(); ++i) {
            const Part& part = *project_.parts[i];
            const auto its = known(part.id);
            if (!its) continue;
            put = put || !part.stands.empty();
            key.add(key_of(i, *its)).add(support_keys_[i]).add(uint64_t(part.quantity));
            for (const auto& [copy, stand] : part.stands)
                key.add(uint64_t(copy))
                    .add(uint64_t(stand.spot.bed))
                    .add(stand.spot.at.x())
                    .add(stand.spot.at.y())
                    .add(stand.spot.turn_deg);
        }
        if (!put) return true;
        key.add(project_.printer.bed_mm.x()).add(project_.printer.bed_mm.y());
        auto found = cache_.find(cache_.beds, key.value(), task_, [&] {
            std::vector<BedThing> things;
            for (const PartPtr& part : project_.parts) {
                const auto its = known(part->id);
                if (!its) continue;
                things.push_back({part->id, *its->posed});
                if (its->supports_shape) append(things.back().posed, its->supports_shape->mesh);
            }
            return bed_troubles(project_, things, task_);
        });
        if (found) result_.beds = *found;
        return found != nullptr;
    }

    /// What is being put together about a part in this round.
    PartAnalysis& fresh(size_t i) {
        auto [at, begun] = fresh_.try_emplace(i);
        PartAnalysis& its = at->second;
        if (!begun) return its;
        its.part = project_.parts[i]->id;
        its.pose = pose_of_part(*project_.parts[i], evaluation_.parts[i], evaluation_.values, &its.pose_note);
        its.mark_note = lost_words(*project_.parts[i], find_marks(*project_.parts[i], evaluation_.parts[i]));
        its.posed = std::make_shared<const TriMesh>(transformed(*evaluation_.parts[i].mesh, its.pose));
        return its;
    }

    /// Of the geometry as it lies.
    uint64_t key_of(size_t i, const PartAnalysis& its) const {
        Hasher key(evaluation_.parts[i].key);
        add_place(key, its.pose);
        return key.value();
    }

    bool of_part(AnalysisKind kind, size_t i) {
        if (!is_printed(i)) return true;
        if (kind == AnalysisKind::Walls) return walls_of_part(i);
        PartAnalysis& its = fresh(i);
        bool done = kind == AnalysisKind::Inspection ? inspect_part(i, its)
                    : kind == AnalysisKind::Supports ? support_part(i, its)
                                                     : lay_part(i, its);
        // A part is shown when all of it is known.
        if (done && kind == AnalysisKind::Plan) {
            // Its walls come last; until then those of before are told.
            if (auto before = known(its.part)) tell_walls(before->inspection.walls, its.inspection);
            show(std::move(its));
        }
        return done;
    }

    void show(PartAnalysis its) {
        std::erase_if(result_.parts, [&](const auto& p) { return p->part == its.part; });
        result_.parts.push_back(std::make_shared<const PartAnalysis>(std::move(its)));
    }

    bool walls_of_part(size_t i) {
        auto shown = known(project_.parts[i]->id);
        if (!shown) return true;
        InspectionOptions options;
        options.nozzle_mm = project_.printer.nozzle_mm;
        options.min_gap_mm = project_.printer.smallest_open_gap_mm;
        const PartResult& made = evaluation_.parts[i];
        // As it was made: turning it on the bed changes no wall.
        const uint64_t key = Hasher(made.key).add(options.nozzle_mm).add(options.min_gap_mm).value();
        auto found = cache_.find(cache_.walls, key, task_, [&] {
            std::vector<const TriMesh*> bodies;
            for (const auto& body : made.bodies) bodies.push_back(&body.body.mesh());
            // One value every four millimetres: small features have facets of their own, and it takes a fraction.
            return wall_facts(*made.mesh, bodies, options, 4, task_).value_or(WallFacts{});
        });
        if (!found) return false;
        WallFacts facts = *found;
        for (auto* finding : {&facts.thin, &facts.narrow})
            if (*finding) (*finding)->where = shown->pose * (*finding)->where;
        PartAnalysis its = *shown;
        tell_walls(facts, its.inspection);
        show(std::move(its));
        return true;
    }

    bool inspect_part(size_t i, PartAnalysis& its) {
        const PrinterCard& card = project_.printer;
        InspectionOptions options;
        options.nozzle_mm = card.nozzle_mm;
        options.overhang_limit_deg = card.overhang_limit_deg;
        options.bed_mm = card.bed_mm;
        options.bridge_limit_mm = card.bridge_limit_mm;
        options.brim_mm = project_.parts[i]->supports.options.border_mm();
        options.self_intersections = !evaluation_.parts[i].exact; // exact bodies were verified when they were made
        Hasher key(key_of(i, its));
        key.add(options.nozzle_mm)
            .add(options.overhang_limit_deg)
            .add(options.self_intersections)
            .add(card.bridge_limit_mm)
            .add(card.layer_height_mm)
            .add(card.lying_sag_mm)
            .add(card.line_mm())
            .add(options.brim_mm)
            .add(project_.parts[i]->supports.options.brim_mm)
            .add(int(project_.parts[i]->supports.options.brim_place));
        for (int k = 0; k < 3; ++k) key.add(card.bed_mm[k]);
        // Turning a part on the bed moves no gap of its joints.
        std::shared_ptr<const std::vector<JointGap>> joints = std::make_shared<std::vector<JointGap>>();
        if (evaluation_.parts[i].bodies.size() > 1)
            joints = cache_.find(cache_.joints, evaluation_.parts[i].key, task_,
                                 [&] { return joint_gaps(evaluation_.parts[i], task_); });
        if (!joints) return false;
        auto found = cache_.find(cache_.inspections, key.value(), task_, [&] {
            typename Cache::Inspected fresh{inspect(*its.posed, options, task_), hanging(i, its),
                                            flared_rims(evaluation_.parts[i], its.pose)};
            for (Finding& finding : findings_as_it_lies(evaluation_.parts[i], *project_.parts[i], its.pose, *its.posed,
                                                        *joints, card, task_))
                fresh.inspection.findings.push_back(std::move(finding));
            return fresh;
        });
        if (!found) return false;
        its.inspection = found->inspection;
        its.rims = found->rims;
        // A map lies on one triangulation: where the bodies were made anew, the map is too.
        its.hanging = found->hanging;
        for (const auto& map : found->hanging)
            if (map->shape != evaluation_.parts[i].bodies[map->body].body.shared_tessellation())
                its.hanging = hanging(i, its);
        return true;
    }
    std::vector<std::shared_ptr<const SurfaceMap>> hanging(size_t i, const PartAnalysis& its) const {
        std::vector<std::shared_ptr<const SurfaceMap>> shared;
        for (SurfaceMap& map : hanging_maps(evaluation_.parts[i], its.pose, project_.printer.overhang_limit_deg))
            shared.push_back(std::make_shared<const SurfaceMap>(std::move(map)));
        return shared;
    }

    bool support_part(size_t i, PartAnalysis& its) {
        const Part& part = *project_.parts[i];
        if (!part.supports.any()) return true;
        const SupportOptions posts = support_options(project_, part);
        Hasher key(key_of(i, its));
        key.add(part.supports.on).add(posts.brim_mm).add(int(posts.brim_place)).add(posts.brim_gap_mm);
        key.add(posts.raft_layers)
            .add(posts.interface_layers)
            .add(project_.printer.first_layer_mm)
            .add(project_.printer.layer_height_mm);
        key.add(int(posts.kind))
            .add(posts.overhang_limit_deg)
            .add(posts.gap_mm())
            .add(posts.spacing_mm)
            .add(posts.post_mm)
            .add(posts.tip_mm)
            .add(posts.neck_mm)
            .add(posts.foot_mm);
        if (!part.marks.empty() || !part.brushed.empty()) key.add(find_marks(part, evaluation_.parts[i]).key());
        for (const SupportChange& c : part.supports.changes) key.add(c.at.x()).add(c.at.y()).add(c.at.z()).add(c.added);
        support_keys_[i] = key.value();
        auto found = cache_.find(cache_.supports, key.value(), task_, [&] {
            typename Cache::Propped fresh{supports_of(evaluation_, part, *its.posed, task_), nullptr};
            if (TriMesh all = fresh.supports.everything(); !all.empty())
                fresh.shape = std::make_shared<const Tessellation>(segment_mesh(std::move(all)));
            return fresh;
        });
        if (!found) return false;
        its.supports = found->supports;
        its.supports_shape = found->shape;
        return true;
    }

    bool lay_part(size_t i, PartAnalysis& its) {
        Hasher key(key_of(i, its));
        key.add(support_keys_[i]).add(card_key(project_.printer, material_of(project_, *project_.parts[i])));
        key.add(support_options(project_, *project_.parts[i]).gap_mm());
        add_bands(key, i);
        auto laid = cache_.find(cache_.plans, key.value(), task_, [&] {
            typename Cache::Laid fresh;
            // Numbers they follow may have led them into each other.
            if (auto bands = height_bands(project_.parts[i]->bands, evaluation_.values); !bands) {
                fresh.problem = bands.error().text();
                return fresh;
            }
            auto plan = plan_layers(*its.posed, its.supports.everything(),
                                    layer_options(evaluation_, *project_.parts[i], its.pose), task_);
            if (plan)
                fresh.plan = std::move(*plan);
            else
                fresh.problem = plan.error().text();
            return fresh;
        });
        if (!laid) return false;
        its.plan = laid->plan;
        its.plan_problem = laid->problem;
        return look_for_pauses(i, its);
    }

    void add_bands(Hasher& key, size_t i) const {
        key.add(height_bands(project_.parts[i]->bands, evaluation_.values).has_value());
        for (const HeightBand& band : layer_heights(evaluation_, project_.parts[i]->id).bands)
            key.add(band.from_mm).add(band.to_mm).add(band.layer_mm);
    }

    bool look_for_pauses(size_t i, PartAnalysis& its) {
        const PrinterCard& card = project_.printer;
        Hasher key(key_of(i, its));
        key.add(card.layer_height_mm).add(card.first_layer_mm).add(card.bridge_limit_mm).add(card.overhang_limit_deg);
        key.add(card.line_mm()).add(project_.parts[i]->supports.options.raft_layers);
        add_bands(key, i);
        for (const StopByHand& stop : project_.parts[i]->stops)
            key.add(std::string_view(stop.why))
                .add(evaluate_expression(stop.at, QuantityKind::Length, evaluation_.values).value_or(-1));
        add_place(key, evaluation_.parts[i].place);
        for (const PartResult& other : evaluation_.parts)
            if (other.stand_in) add_place(key.add(other.key).add(std::string_view(other.name)), other.place);
        auto found =
            cache_.find(cache_.pauses, key.value(), task_, [&] { return pauses_of(evaluation_, its.part, task_); });
        if (!found) return false;
        its.pauses = *found;
        return true;
    }
    static void add_place(Hasher& key, const Transform& place) {
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 4; ++c) key.add(place.matrix()(r, c));
    }

    const Evaluation& evaluation_;
    const Project& project_;
    Cache& cache_;
    const Task& task_;
    Analysis result_;
    std::map<size_t, PartAnalysis> fresh_;
    std::map<size_t, uint64_t> support_keys_;
};

} // namespace

Analyser::Analyser() : cache_(std::make_unique<Cache>()) {}
Analyser::~Analyser() = default;

Analyser::Counts Analyser::last_counts() const {
    return cache_->counts;
}

std::vector<ContactResult> Analyser::contacts(const Evaluation& evaluation, const Task& task) {
    return cache_->ledger.contacts(evaluation, task);
}

Expected<Analysis> Analyser::analyse(const Evaluation& evaluation, const Task& task, const Wanted& wanted,
                                     const std::function<void(const Analysis&)>& first) {
    ++cache_->round;
    cache_->counts = {};
    Round round(evaluation, *cache_, task);
    struct Job {
        const AnalysisRow* row;
        std::optional<size_t> part;
        bool wanted;
    };
    std::vector<Job> jobs;
    const auto& parts = evaluation.project->parts;
    // All of a part is worked out together, so that it is shown whole: it is wanted where any of it is shown.
    auto shown = [&](const AnalysisRow& row) {
        return std::count(row.shown_at.begin(), row.shown_at.end(), wanted.stretch) > 0;
    };
    auto looked_at = [&](const AnalysisRow& row, const Part& part) {
        return !row.dear || !first || shown(row) || round.tells_walls(part.id);
    };
    // What stands below those of parts in the table is worked out from them.
    const AnalysisRow* first_of_parts =
        &*std::find_if(analyses().begin(), analyses().end(), [](const AnalysisRow& row) { return row.of_each_part; });
    for (const AnalysisRow& row : analyses())
        if (!row.of_each_part && &row < first_of_parts) jobs.push_back({&row, {}, shown(row)});
    for (size_t i = 0; i < parts.size(); ++i)
        for (const AnalysisRow& row : analyses())
            if (row.of_each_part && round.is_printed(i) && looked_at(row, *parts[i]))
                jobs.push_back(
                    {&row, i, !row.dear && (parts[i]->id == wanted.part || wanted.stretch == Stretch::Export)});
    for (const AnalysisRow& row : analyses())
        if (!row.of_each_part && &row > first_of_parts) jobs.push_back({&row, {}, false});
    std::stable_partition(jobs.begin(), jobs.end(), [](const Job& job) { return !job.row->dear; });
    std::stable_partition(jobs.begin(), jobs.end(), [](const Job& job) { return job.wanted; });
    double all = 0, done = 0;
    for (const Job& job : jobs) all += job.row->cost;
    bool told = !first;
    for (const Job& job : jobs) {
        if (!told && !job.wanted) {
            told = true;
            first(round.answer());
        }
        task.tell(job.part ? std::string(job.row->doing) + " " + parts[*job.part]->name : job.row->doing, done / all);
        if (!round.work(*job.row, job.part)) return cancelled();
        done += job.row->cost;
    }
    cache_->forget_old();
    cache_->last = round.answer();
    return cache_->last;
}

} // namespace lp
