#include "project/contact_movement.h"
#include "base/quantity.h"
#include "hardware/thread_size.h"
#include "project/read_fields.h"
#include "steps/step_kind.h"
#include <algorithm>

namespace lp {
namespace {

bool is_of(const Participant& who, PartId part, std::optional<size_t> body) {
    return who.part == part && (!who.body || !body || who.body == body);
}

/// The step that opens `host`, and the first one of its partner kind on the part that goes in.
struct WayOfContact {
    PartPtr lugs, host;
    const Step *partner = nullptr, *groove = nullptr;
};

std::optional<WayOfContact> way_of(const Project& project, const ContactResult& contact) {
    WayOfContact found{project.part(contact.part_a), project.part(contact.part_b)};
    if (!found.lugs || !found.host) return std::nullopt;
    for (const Step& step : found.host->steps)
        if (step.id == contact.step) found.groove = &step;
    const StepKind* kind = found.groove ? find_step_kind(found.groove->kind) : nullptr;
    if (!kind || !kind->way) return std::nullopt;
    for (const Step& step : found.lugs->steps)
        if (step.on && step.kind == kind->partner && !found.partner) found.partner = &step;
    if (!found.partner) return std::nullopt;
    return found;
}

/// A thread on what goes in, or cut into what it goes into.
struct ThreadOfContact {
    PartPtr part;
    const Step* step = nullptr;
};

std::optional<ThreadOfContact> thread_of(const Project& project, const ContactResult& contact) {
    if (contact.part_a == contact.part_b) return std::nullopt;
    for (PartId id : {contact.part_a, contact.part_b})
        if (PartPtr part = project.part(id))
            for (const Step& step : part->steps)
                if (step.on && step.kind == "thread") return ThreadOfContact{part, &step};
    return std::nullopt;
}

/// Screwed apart along the thread's own pitch: the smaller of the two, away from the other's middle, as far as the
/// thread is long.
Expected<KeptMovement> movement_along_thread(const Evaluation& evaluation, const ContactResult& contact,
                                             const ThreadOfContact& thread) {
    const Project& project = *evaluation.project;
    const PartResult *a = evaluation.part(contact.part_a), *b = evaluation.part(contact.part_b),
                     *made = evaluation.part(thread.part->id);
    const StepOutcome* outcome = nullptr;
    for (size_t i = 0; made && i < made->steps.size(); ++i)
        if (made->steps[i].step == thread.step->id) outcome = &made->steps[i];
    const SizeHandle* along = nullptr;
    for (size_t i = 0; outcome && i < outcome->handles.size(); ++i)
        if (outcome->handles[i].field == "length") along = &outcome->handles[i];
    if (!a || !b || !along)
        return problem(ProblemCode::Missing, "The thread was not made: it leads nowhere.", "Look at its step.");
    StepContext fields;
    Hasher unused(0);
    if (auto wrong = read_fields(project, evaluation.values, *thread.part, *thread.step,
                                 *find_step_kind(thread.step->kind), fields, unused))
        return pass_on(*wrong);
    double pitch = fields.number("pitch");
    if (const std::string& size = fields.word("size"); !size.empty())
        if (auto named = thread_size(size)) pitch = named->pitch_mm;
    const double lead = pitch * std::max(1.0, std::round(fields.number("starts")));
    const bool left = fields.word("hand") == "left", b_moves = b->box.volume() < a->box.volume();
    const PartResult &moving = b_moves ? *b : *a, &still = b_moves ? *a : *b;
    const Vec3 axis = (made->place.linear() * along->way).normalized(), point = made->place * along->from;
    const double away = (moving.place * moving.box.center() - still.place * still.box.center()).dot(axis);
    const double turn_deg = fields.number("length") / lead * 360 * (away < 0 ? -1 : 1) * (left ? -1 : 1);
    KeptMovement movement;
    movement.moving = b_moves ? contact.b : contact.a;
    movement.still = b_moves ? contact.a : contact.b;
    movement.kind = "screw";
    movement.pitch = format_number(left ? -lead : lead, 6) + " mm";
    movement.to = format_number(turn_deg, 3);
    constexpr double fine_deg = 15, most_places = 72;
    movement.step = format_number(std::max(fine_deg, std::ceil(std::fabs(turn_deg) / most_places)), 0);
    for (size_t k = 0; k < 3; ++k) {
        movement.point[k] = format_number(point[int(k)], 6) + " mm";
        movement.direction[k] = format_number(axis[int(k)], 9);
    }
    return movement;
}

std::string legs_text(const std::vector<PathLeg>& legs) {
    std::string text;
    for (const PathLeg& leg : legs) {
        if (!text.empty()) text += ", ";
        if (leg.turn_deg != 0) text += "turn " + format_number(leg.turn_deg, 6);
        if (leg.slide_mm != 0) text += (leg.turn_deg != 0 ? " slide " : "slide ") + format_number(leg.slide_mm, 6);
    }
    return text;
}

} // namespace

bool must_move(const Project& project, const ContactResult& contact) {
    if (contact.state != FitState::Right || !contact.wanted || contact.one_lump()) return false;
    const NamedFit* slide = find_fit(project.fits, "slide");
    const double least = slide ? slide->gap_mm : find_fit(standard_fits(), "slide")->gap_mm;
    return contact.wanted->fit_mm >= least - 1e-9;
}

Led led(const Evaluation& evaluation, const ContactResult& contact,
        const std::vector<const MovementOutcome*>& checked) {
    if (!must_move(*evaluation.project, contact)) return Led::NotNeeded;
    Led result = Led::NotYet;
    for (const MovementOutcome* outcome : checked) {
        const bool a_moves = is_of(outcome->moving, contact.part_a, contact.body_a);
        if (!a_moves && !is_of(outcome->moving, contact.part_b, contact.body_b)) continue;
        const PartId other = a_moves ? contact.part_b : contact.part_a;
        const auto body = a_moves ? contact.body_b : contact.body_a;
        for (size_t i = 0; i < outcome->still.size(); ++i) {
            auto who = find_participant(evaluation, outcome->still[i]);
            if (!who || !is_of(*who, other, body)) continue;
            const auto& touched = outcome->result.interferences;
            if (std::none_of(touched.begin(), touched.end(), [&](const Interference& at) { return at.with == i; }))
                return Led::Free;
            result = Led::Binds;
        }
    }
    return result;
}

std::string led_words(Led led) {
    if (led == Led::NotYet) return "right as it stands, not yet moved";
    if (led == Led::Binds) return "right as it stands, touches when moved";
    return {};
}

bool has_way(const Project& project, const ContactResult& contact) {
    return way_of(project, contact) || thread_of(project, contact);
}

Expected<KeptMovement> movement_along_way(const Evaluation& evaluation, const ContactResult& contact) {
    const Project& project = *evaluation.project;
    auto way = way_of(project, contact);
    if (!way)
        if (auto thread = thread_of(project, contact)) return movement_along_thread(evaluation, contact, *thread);
    const PartResult *lugs = evaluation.part(contact.part_a), *host = evaluation.part(contact.part_b);
    if (!way || !lugs || !host)
        return problem(ProblemCode::Missing, "No step of this contact says which way it goes.",
                       "Choose a face and take one of the offers to move it.");
    StepContext mine, partner;
    Hasher unused(0);
    for (auto [part, step, context] :
         {std::tuple{way->host, way->groove, &mine}, std::tuple{way->lugs, way->partner, &partner}})
        if (auto wrong =
                read_fields(project, evaluation.values, *part, *step, *find_step_kind(step->kind), *context, unused))
            return pass_on(*wrong);
    auto led = find_step_kind(way->groove->kind)->way(mine, partner, host->place.inverse() * lugs->place);
    if (!led) return pass_on(led);
    // What is led is what a hand turns: the smaller one. The groove's own part goes the other way.
    const bool host_moves = host->box.volume() < lugs->box.volume();
    if (host_moves)
        for (PathLeg& leg : led->legs) leg = {-leg.turn_deg, -leg.slide_mm};
    KeptMovement movement;
    movement.moving = host_moves ? contact.b : contact.a;
    movement.still = host_moves ? contact.a : contact.b;
    movement.kind = "legs";
    movement.legs = legs_text(led->legs);
    const Vec3 point = host->place * led->point, axis = host->place.linear() * led->axis;
    for (size_t k = 0; k < 3; ++k) {
        movement.point[k] = format_number(point[int(k)], 6) + " mm";
        movement.direction[k] = format_number(axis[int(k)], 9);
    }
    return movement;
}

} // namespace lp
