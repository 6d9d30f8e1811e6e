#include "project/contact_ledger.h"
#include "base/hash.h"
#include "base/tolerance.h"
#include "bed/fused_layers.h"
#include "project/contact_situation.h"
#include "project/layer_heights.h"
#include "project/seating.h"
#include <algorithm>
#include <set>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

/// Triangles of the host that a cut_with step made: their faces carry tags of the grown tool's copy.
std::vector<uint32_t> faces_of_cut(const PartResult& host, StepId step) {
    std::vector<uint32_t> result;
    uint64_t copy = cut_copy_id(step);
    uint32_t base = 0;
    for (const StepBody& body : host.bodies) {
        const Tessellation& t = body.body.tessellation();
        std::vector<bool> made(t.faces.size(), false);
        for (size_t f = 0; f < t.faces.size(); ++f)
            for (Tag tag : t.faces[f].tags)
                if (auto meaning = tag_meaning(tag); meaning && meaning->copy == copy) made[f] = true;
        for (uint32_t i = 0; i < t.face_of.size(); ++i)
            if (made[t.face_of[i]]) result.push_back(base + i);
        base += uint32_t(t.face_of.size());
    }
    return result;
}

/// Of all places where the gap is smallest, the one a person looking from the front right above sees first.
void show_in_front(GapMeasure& gap, const TriMesh& host, const std::vector<uint32_t>& facing,
                   const MeasuredBody& other) {
    const Vec3 towards_eye(0.5, -0.75, 0.43);
    double best = -1e300;
    for (uint32_t i : facing)
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = host.corner(i, k);
            if (p.dot(towards_eye) <= best) continue;
            ClosestPoint near = other.tree.closest(p, gap.min_mm + tolerance::gap_right_mm / 2);
            if (near.triangle == ~0u) continue;
            best = p.dot(towards_eye);
            gap.at_b = p;
            gap.at_a = near.point;
        }
}

void add_place(Hasher& key, const Transform& place) {
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 4; ++j) key.add(place.matrix()(i, j));
}

std::vector<std::shared_ptr<const Tessellation>> triangles_of(const PartResult& part, std::optional<size_t> body) {
    std::vector<std::shared_ptr<const Tessellation>> all;
    for (size_t i = 0; i < part.bodies.size(); ++i)
        if (!body || *body == i) all.push_back(part.bodies[i].body.shared_tessellation());
    return all;
}

/// Where it stands in the assembly.
std::shared_ptr<const MeasuredBody> made_ready(const PartResult& part, std::optional<size_t> body) {
    TriMesh mesh;
    for (const auto& t : triangles_of(part, body)) append(mesh, t->mesh);
    bool home = part.place.isApprox(Transform::Identity(), 0);
    return std::make_shared<const MeasuredBody>(home ? std::move(mesh) : transformed(mesh, part.place));
}

uint64_t key_of(const PartResult& part, std::optional<size_t> body) {
    Hasher key(0x6a9);
    for (const auto& t : triangles_of(part, body)) key.add(uint64_t(reinterpret_cast<uintptr_t>(t.get())));
    add_place(key, part.place);
    return key.value();
}

/// The halo of either body that the contact lies in: what was wanted between them.
const CarriedHalo* halo_between(const PartResult& part, size_t a, size_t b, const GapMeasure& gap) {
    const CarriedHalo* best = nullptr;
    double nearest = 1e300;
    Transform back = part.place.inverse();
    for (size_t carrier : {a, b})
        for (const CarriedHalo& halo : part.bodies[carrier].halos) {
            Vec3 at = back * (carrier == a ? gap.at_a : gap.at_b);
            double d = halo.envelope.box().exteriorDistance(at);
            if (d < nearest && d < near_mm) {
                nearest = d;
                best = &halo;
            }
        }
    return best;
}

} // namespace

namespace {

bool has_step(const Part& part, const std::string& kind) {
    return std::any_of(part.steps.begin(), part.steps.end(), [&](const Step& s) { return s.on && s.kind == kind; });
}

Box3 box_of(const Evaluation& evaluation, PartId part) {
    const PartResult* made = evaluation.part(part);
    return made ? made->box.transformed(made->place) : Box3();
}

bool comes_near(const Evaluation& evaluation, PartId a, PartId b) {
    Box3 one = box_of(evaluation, a), other = box_of(evaluation, b);
    return !one.isEmpty() && !other.isEmpty() && one.exteriorDistance(other) < near_mm;
}

} // namespace

/// A pair to be measured, and what becomes of it.
struct ContactLedger::Question {
    ContactResult result;
    double below = near_mm;
    bool listed = false; ///< also when the bodies are far apart
    uint64_t key = 0;
    Participant a, b;

    void name(const Participant& goes_in, const Participant& host) {
        a = goes_in;
        b = host;
        result.a = a.name;
        result.b = b.name;
        result.part_a = a.part;
        result.part_b = b.part;
        result.body_a = a.body;
        result.body_b = b.body;
    }
};

std::vector<Participant> participants(const Evaluation& evaluation) {
    std::vector<Participant> all;
    for (const PartResult& part : evaluation.parts)
        for (size_t i = 0; i < part.bodies.size(); ++i) {
            if (part.bodies.size() == 1)
                all.push_back({part.part, std::nullopt, part.name});
            else
                all.push_back({part.part, i, part.name + "/" + part.bodies[i].called()});
        }
    return all;
}

std::optional<Participant> find_participant(const Evaluation& evaluation, const std::string& name) {
    for (const PartResult& part : evaluation.parts) {
        if (part.name == name) return Participant{part.part, std::nullopt, name};
        for (size_t i = 0; i < part.bodies.size(); ++i)
            if (part.name + "/" + part.bodies[i].called() == name) return Participant{part.part, i, name};
    }
    return std::nullopt;
}

std::shared_ptr<const MeasuredBody> ContactLedger::measured(const Evaluation& evaluation, const Participant& who) {
    const PartResult* part = evaluation.part(who.part);
    if (!part || part->bodies.empty() || (who.body && *who.body >= part->bodies.size())) return nullptr;
    Kept& kept = bodies_[key_of(*part, who.body)];
    kept.used = round_;
    if (kept.body) return kept.body;
    kept.of = triangles_of(*part, who.body);
    kept.body = made_ready(*part, who.body);
    return kept.body;
}

/// Whether one of two parts is made of bodies of the other: where it was not put elsewhere a copy lies in its source,
/// and that is no contact.
static bool took_from(const Project& project, PartId one, PartId other) {
    if (one == other) return false;
    auto takes = [&](PartId from, PartId to) {
        PartPtr part = project.part(to), source = project.part(from);
        if (!part || !source || !(part->place == source->place) || !part->place.seats.empty()) return false;
        return std::any_of(part->steps.begin(), part->steps.end(), [&](const Step& step) {
            const StepKind* kind = find_step_kind(step.kind);
            const StepField* field = kind && step.on ? kind->field_as(FieldRole::Source) : nullptr;
            return field && field_text(step, *field) == source->name;
        });
    };
    return takes(one, other) || takes(other, one);
}

/// Which pairs there are to measure: wanted ones first, then every two bodies whose boxes come near.
std::vector<ContactLedger::Question> ContactLedger::questions(const Evaluation& evaluation, const Task& task) {
    const Project& project = *evaluation.project;
    std::vector<Question> all;
    auto wanted = [&](const Participant& a, const Participant& b, StepId step, const std::string& fit) {
        PartPtr pa = project.part(a.part), pb = project.part(b.part);
        const PartResult* tool = evaluation.part(a.part);
        Question q;
        q.name(a, b);
        q.listed = true;
        q.result.step = step;
        q.result.fit = fit;
        if (pa && pb && tool) {
            const PartResult* host = evaluation.part(b.part);
            auto situation =
                contact_situation(project, *pb, host ? host->bodies : std::vector<StepBody>{}, *pa, tool->bodies,
                                  host ? Transform(host->place.inverse() * tool->place) : Transform::Identity());
            if (auto resolved = resolve_fit_field(project, fit, situation, evaluation.values, {pa.get(), pb.get()}))
                q.result.wanted = *resolved;
        }
        if (q.result.wanted) q.below = std::max(5.0, q.result.wanted->gap_mm * 4);
        all.push_back(std::move(q));
    };
    for (const PartPtr& part : project.parts)
        for (const Step& step : part->steps) {
            const StepKind* kind = find_step_kind(step.kind);
            if (!kind || !kind->makes_contact() || !step.on || task.stopped()) continue;
            PartPtr tool = project.part_named(field_text(step, *kind->field_as(FieldRole::GoesIn)));
            if (tool)
                wanted({tool->id, {}, tool->name}, {part->id, {}, part->name}, step.id,
                       field_text(step, *kind->field_of(FieldKind::Fit)));
        }
    // What a kind's partner stands on another part goes into this one, where the two come near.
    for (const PartPtr& part : project.parts)
        for (const Step& step : part->steps) {
            const StepKind* kind = find_step_kind(step.kind);
            if (!kind || kind->partner.empty() || !step.on) continue;
            for (const PartPtr& other : project.parts)
                if (other != part && comes_near(evaluation, other->id, part->id) && has_step(*other, kind->partner))
                    wanted({other->id, {}, other->name}, {part->id, {}, part->name}, step.id,
                           field_text(step, *kind->field_of(FieldKind::Fit)));
        }
    for (const WantedContact& contact : project.contacts) {
        auto a = find_participant(evaluation, contact.a), b = find_participant(evaluation, contact.b);
        if (!a || !b) continue;
        // What a step asked for already with this fit is one contact, not two.
        bool there = std::any_of(all.begin(), all.end(), [&](const Question& q) {
            auto same = [](const Participant& x, const Participant& y) { return x.part == y.part && x.body == y.body; };
            const bool pair = (same(q.a, *a) && same(q.b, *b)) || (same(q.a, *b) && same(q.b, *a));
            return pair && q.result.wanted && q.result.fit == contact.fit;
        });
        if (!there) wanted(*a, *b, StepId(), contact.fit);
    }
    auto covered = [&](const Participant& a, const Participant& b) {
        auto same = [](const Participant& x, const Participant& y) {
            return x.part == y.part && (!x.body || !y.body || x.body == y.body);
        };
        return std::any_of(all.begin(), all.end(), [&](const Question& q) {
            return q.listed && ((same(q.a, a) && same(q.b, b)) || (same(q.a, b) && same(q.b, a)));
        });
    };
    auto everyone = participants(evaluation);
    std::vector<Box3> boxes;
    for (const Participant& who : everyone) {
        const PartResult& part = *evaluation.part(who.part);
        Box3 box = who.body ? part.bodies[*who.body].body.box() : part.box;
        boxes.push_back(part.place.isApprox(Transform::Identity(), 0) ? box : box.transformed(part.place));
    }
    for (size_t i = 0; i < everyone.size(); ++i)
        for (size_t j = i + 1; j < everyone.size(); ++j) {
            if (task.stopped() || boxes[i].exteriorDistance(boxes[j]) > near_mm) continue;
            // What a bought thing is put together of is its maker's matter.
            if (everyone[i].part == everyone[j].part && project.part(everyone[i].part)->stand_in) continue;
            if (covered(everyone[i], everyone[j]) || took_from(project, everyone[i].part, everyone[j].part)) continue;
            Question q;
            q.name(everyone[i], everyone[j]);
            all.push_back(std::move(q));
        }
    return all;
}

void ContactLedger::measure(const Evaluation& evaluation, std::vector<Question>& questions, const Task& task) {
    struct Work {
        Question* question;
        std::shared_ptr<const MeasuredBody> a, b;
        Pair made;
    };
    std::vector<Work> work;
    // Trees of many bodies are built side by side; the table is filled by one thread.
    std::vector<Participant> needed;
    std::set<uint64_t> asked;
    for (Question& q : questions) {
        const PartResult *a = evaluation.part(q.a.part), *b = evaluation.part(q.b.part);
        if (!a || !b || a->bodies.empty() || b->bodies.empty()) continue;
        q.key = Hasher(key_of(*a, q.a.body)).add(key_of(*b, q.b.body)).add(q.result.step).add(q.below).value();
        for (const Participant& who : {q.a, q.b}) {
            uint64_t key = key_of(*evaluation.part(who.part), who.body);
            if (!bodies_.count(key) && asked.insert(key).second) needed.push_back(who);
        }
    }
    std::vector<std::shared_ptr<const MeasuredBody>> fresh(needed.size());
    tbb::parallel_for(size_t(0), needed.size(), [&](size_t i) {
        const PartResult& part = *evaluation.part(needed[i].part);
        fresh[i] = made_ready(part, needed[i].body);
    });
    for (size_t i = 0; i < needed.size(); ++i) {
        const PartResult& part = *evaluation.part(needed[i].part);
        bodies_[key_of(part, needed[i].body)] = {triangles_of(part, needed[i].body), fresh[i], round_};
    }
    for (Question& q : questions) {
        if (!q.key) continue;
        auto a = measured(evaluation, q.a), b = measured(evaluation, q.b);
        if (pairs_.count(q.key)) {
            pairs_[q.key].used = round_;
            continue;
        }
        work.push_back({&q, a, b, {}});
    }
    tbb::parallel_for(size_t(0), work.size(), [&](size_t i) {
        Work& w = work[i];
        if (task.stopped()) return;
        const Question& q = *w.question;
        w.made.used = round_;
        w.made.gap = measure_gap(*w.a, *w.b, q.below);
        if (!w.made.gap) return;
        FacingOptions options;
        std::vector<uint32_t> facets;
        if (q.result.step) facets = faces_of_cut(*evaluation.part(q.b.part), q.result.step);
        if (!facets.empty()) {
            w.made.gap->max_mm = largest_gap(*w.b, facets, *w.a);
            show_in_front(*w.made.gap, w.b->mesh, facets, *w.a);
            options.any_direction = true;
            options.reach_mm = *w.made.gap->max_mm + 0.1;
        } else {
            options.reach_mm = std::max(near_mm, q.result.wanted ? 3 * q.result.wanted->gap_mm : 0.0);
        }
        w.made.samples = facing_samples(*w.b, facets, *w.a, options);
        if (!facets.empty()) return;
        // Which of two bodies is named first must not matter: both surfaces are looked at, and each counts half.
        for (FacingSample& s : w.made.samples) s.area_mm2 /= 2;
        for (FacingSample& s : facing_samples(*w.a, {}, *w.b, options)) {
            std::swap(s.at, s.on_other);
            s.area_mm2 /= 2;
            w.made.samples.push_back(s);
        }
    });
    for (Work& w : work)
        if (!task.stopped()) pairs_[w.question->key] = std::move(w.made);
}

/// Where the print closes the gap: between lying faces by the places looked at, between upright ones by the layers.
std::optional<FusedLayers> ContactLedger::fused(const Evaluation& evaluation, const Question& question, Pair& pair,
                                                const Transform& to_print, const Task& task) {
    const PrinterCard& card = evaluation.project->printer;
    auto lying = fused_layers(pair.samples, to_print, card);
    if (pair.gap->min_mm >= card.first_layer_gap_mm()) { // in a layer they are no nearer
        pair.closed_at_bed.reset();
        pair.sections = 0;
        return lying;
    }
    const LayerHeights heights = layer_heights(evaluation, question.a.part);
    Hasher key(0xf05e);
    add_place(key, to_print);
    key.add(heights.layer_mm).add(heights.first_mm).add(card.smallest_open_gap_mm).add(card.first_layer_gap_mm());
    for (const HeightBand& band : heights.bands) key.add(band.from_mm).add(band.to_mm).add(band.layer_mm);
    if (pair.sections != key.value()) {
        const TriMesh a = transformed(measured(evaluation, question.a)->mesh, to_print),
                      b = transformed(measured(evaluation, question.b)->mesh, to_print);
        const Transform back = to_print.inverse();
        pair.in_sections =
            pair.gap->min_mm < card.smallest_open_gap_mm ? fused_sections(a, b, heights, card, task) : std::nullopt;
        if (pair.in_sections) pair.in_sections->where = back * pair.in_sections->where;
        pair.closed_at_bed = closed_in_first_layer(a, b, heights, card.first_layer_gap_mm(), task);
        if (pair.closed_at_bed) pair.closed_at_bed = back * *pair.closed_at_bed;
        if (!task.stopped()) pair.sections = key.value();
    }
    return united(lying, pair.in_sections);
}

/// Two parts that touch nowhere but where one of them is seated on the other: that is how they are wanted.
static bool rest_as_seated(const Evaluation& evaluation, const ContactResult& contact,
                           const std::vector<FacingSample>& samples) {
    const PartPtr a = evaluation.project->part(contact.part_a), b = evaluation.project->part(contact.part_b);
    if (!a || !b || a == b || !contact.gap) return false;
    Seating seating(*evaluation.project, evaluation);
    auto planes = seating.rests(*a, *b);
    for (const auto& plane : seating.rests(*b, *a)) planes.push_back(plane);
    auto in_one = [&](const Vec3& at) {
        return std::any_of(planes.begin(), planes.end(), [&](const auto& plane) {
            return std::fabs((at - plane.first).dot(plane.second)) < 2 * tolerance::touching_mm;
        });
    };
    auto lies_in_one = [&](const FacingSample& s) {
        return in_one(s.at) && std::any_of(planes.begin(), planes.end(), [&](const auto& plane) {
                   return std::fabs(s.normal.dot(plane.second)) > 0.999;
               });
    };
    return in_one(contact.gap->at_a) && std::all_of(samples.begin(), samples.end(), [&](const FacingSample& s) {
               return s.gap_mm > tolerance::touching_mm || lies_in_one(s);
           });
}

void ContactLedger::judge(const Evaluation& evaluation, Question& question, const Task& task) {
    ContactResult& c = question.result;
    auto found = pairs_.find(question.key);
    if (!question.key || found == pairs_.end()) return;
    Pair& pair = found->second;
    c.gap = pair.gap;
    const PartResult* part = evaluation.part(c.part_a);
    PartPtr its = evaluation.project->part(c.part_a);
    bool together = c.part_a == c.part_b && part && its;
    if (c.gap && together && !c.wanted && c.body_a && c.body_b)
        if (const CarriedHalo* halo = halo_between(*part, *c.body_a, *c.body_b, *c.gap)) {
            c.fit = halo->fit;
            c.step = halo->step;
            if (auto resolved = resolve_fit_field(*evaluation.project, halo->fit, {}, evaluation.values, {its.get()}))
                c.wanted = *resolved;
        }
    std::optional<double> wanted;
    if (c.wanted) wanted = c.wanted->gap_mm;
    if (!c.gap) {
        if (wanted) c.state = FitState::Slack;
        return;
    }
    c.state = judge_gap(*c.gap, wanted);
    if (c.state == FitState::Touching && !wanted && rest_as_seated(evaluation, c, pair.samples))
        c.state = FitState::Unset;
    c.facing = facing_figures(pair.samples, wanted);
    if (c.facing) c.gap->max_mm = std::max({c.facing->max_mm, c.gap->min_mm, c.gap->max_mm.value_or(0)});
    if (together && !its->stand_in && !c.gap->touching)
        c.fused = fused(evaluation, question, pair,
                        pose_of_part(*its, *part, evaluation.values) * part->place.inverse(), task);
    if (together && !c.fused) c.closed_at_bed = pair.closed_at_bed;
    // What fuses in print is no gap, however right it is drawn.
    if (c.fused && (c.state == FitState::Right || c.state == FitState::Slack || c.state == FitState::Unset))
        c.state = FitState::Touching;
}

void ContactLedger::forget_old() {
    constexpr uint64_t kept_rounds = 24; // undo and redo over the last edits stay quick
    std::erase_if(bodies_, [&](const auto& entry) { return entry.second.used + kept_rounds < round_; });
    std::erase_if(pairs_, [&](const auto& entry) { return entry.second.used + kept_rounds < round_; });
}

std::vector<ContactResult> ContactLedger::contacts(const Evaluation& evaluation, const Task& task) {
    ++round_;
    auto all = questions(evaluation, task);
    measure(evaluation, all, task);
    std::vector<ContactResult> result;
    for (Question& q : all) {
        judge(evaluation, q, task);
        if (q.listed || q.result.gap) result.push_back(std::move(q.result));
    }
    forget_old();
    return result;
}

} // namespace lp
