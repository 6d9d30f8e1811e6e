// check and move: what the window shows of a project's findings, contacts and movements.
#include "base/no_such.h"
#include "base/quantity.h"
#include "base/text.h"
#include "cli/made_project.h"
#include "project/assembly_order.h"
#include "project/contact_movement.h"
#include "project/findings.h"
#include "project/standing.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

using nlohmann::json;

json fit_report(const ContactResult& c) {
    json result{{"a", c.a},
                {"b", c.b},
                {"fit", c.fit.empty() ? json(nullptr) : json(c.fit)},
                {"state", fit_state_name(c.state)}};
    result["wanted_mm"] = c.wanted ? json(c.wanted->gap_mm) : json(nullptr);
    result["min_mm"] = c.gap ? number_json(c.gap->min_mm) : json(nullptr);
    result["max_mm"] = c.gap && c.gap->max_mm ? number_json(*c.gap->max_mm) : json(nullptr);
    return result;
}

void print_fit(const ContactResult& c) {
    std::cout << c.a << " in " << c.b << ": " << fit_state_name(c.state);
    if (c.wanted) std::cout << ", wanted " << format_fixed(c.wanted->gap_mm, 2) << " mm";
    if (c.gap)
        std::cout << ", found " << format_fixed(c.gap->min_mm, 2)
                  << (c.gap->max_mm ? " to " + format_fixed(*c.gap->max_mm, 2) : "") << " mm";
    std::cout << "\n";
}

namespace {

/// What comes of the kept movements that lead one side of a contact which needs it. One that cannot be led says so in
/// `move`; here it counts as not led.
std::vector<MovementOutcome> led_movements(const MadeProject& made, const Analysis& analysis, const Task& task) {
    std::vector<MovementOutcome> outcomes;
    for (const KeptMovement& movement : made.project->movements) {
        auto who = find_participant(made.evaluation, movement.moving);
        bool needed = who && std::any_of(analysis.contacts.begin(), analysis.contacts.end(), [&](const auto& c) {
                          return must_move(*made.project, c) && (c.part_a == who->part || c.part_b == who->part);
                      });
        if (!needed) continue;
        if (auto outcome = run_movement(made.evaluation, movement, task)) outcomes.push_back(std::move(*outcome));
    }
    return outcomes;
}

json led_json(Led led) {
    return led == Led::NotNeeded ? json(nullptr)
                                 : json(led == Led::NotYet ? "not yet"
                                        : led == Led::Free ? "free"
                                                           : "binds");
}

} // namespace

int check_command(const CheckArgs& args, const Common& common) {
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project(args, made, task)) return status;
    auto analysis = Analyser().analyse(made.evaluation, task);
    if (!analysis) return refuse(args.project, analysis.error(), 1);
    auto findings = all_findings(made.evaluation, &*analysis);
    json parts = json::array(), contacts = json::array();
    for (const PartResult& part : made.evaluation.parts) {
        json list = json::array();
        if (!common.json) std::cout << part.name << "\n";
        size_t before = list.size();
        for (const PartFinding& f : findings) {
            if (f.ref.part != part.part) continue;
            json layers = nullptr;
            if (f.finding.kind == FindingKind::Fused)
                for (size_t nth = f.ref.nth; const ContactResult& c : analysis->contacts)
                    if (c.fused && c.part_a == part.part && c.part_b == part.part && c.step == f.ref.step && nth-- == 0)
                        layers = {c.fused->first(), c.fused->last()};
            list.push_back({{"kind", row_of(f.finding.kind).id},
                            {"count", f.finding.count},
                            {"where", point_json(f.finding.where)},
                            {"says", f.finding.says},
                            {"layers", layers}});
            if (!common.json) std::cout << "  " << f.finding.title_and_count() << ": " << f.finding.says << "\n";
        }
        if (!common.json && list.size() == before) std::cout << "  nothing is wrong with it\n";
        parts.push_back({{"name", part.name}, {"findings", list}});
    }
    const auto outcomes = led_movements(made, *analysis, task);
    std::vector<const MovementOutcome*> checked;
    for (const MovementOutcome& outcome : outcomes) checked.push_back(&outcome);
    for (const ContactResult& c : analysis->contacts) {
        json contact = fit_report(c);
        const Led moved = led(made.evaluation, c, checked);
        contact["moved"] = led_json(moved);
        contact["closed_at_bed"] = c.closed_at_bed.has_value();
        contact["fused_layers"] = c.fused ? json{c.fused->first(), c.fused->last()} : json(nullptr);
        contacts.push_back(std::move(contact));
        if (common.json) continue;
        print_fit(c);
        if (!led_words(moved).empty()) std::cout << "  " << led_words(moved) << "\n";
    }
    json answer{{"parts", parts}, {"contacts", contacts}};
    if (args.assembly) {
        const auto moves = assembly_order(made.evaluation, *analysis, task);
        if (!moves) return refuse(args.project, moves.error(), 1);
        const auto standing = standing_of(made.evaluation).words();
        answer["standing"] = standing;
        if (!standing.empty() && !common.json) std::cout << "as it stands: " << joined(standing) << "\n";
        answer["assembly"] = json::array();
        for (const AssemblyMove& move : *moves) {
            json legs = json::array();
            for (const Vec3& leg : move.legs) legs.push_back(point_json(leg));
            answer["assembly"].push_back({{"part", move.name},
                                          {"from", move.from.isZero() ? json(nullptr) : point_json(move.from)},
                                          {"turned_in", move.turned_in},
                                          {"legs", legs},
                                          {"laid_in", move.laid_in},
                                          {"meets", move.meets},
                                          {"in_the_way", move.in_the_way}});
            if (!common.json) std::cout << "put in " << move.name << ": " << move.words() << "\n";
        }
    }
    if (common.json) print_json(answer);
    return 0;
}

namespace {

/// By its number, counted from 1, or by what moves where only one movement moves it.
const KeptMovement* find_movement(const Project& project, const std::string& text) {
    const KeptMovement* found = nullptr;
    for (const KeptMovement& m : project.movements)
        if (m.moving == text) {
            if (found) return nullptr;
            found = &m;
        }
    if (found) return found;
    for (size_t i = 0; i < project.movements.size(); ++i)
        if (text == std::to_string(i + 1)) return &project.movements[i];
    return nullptr;
}

double widest(const std::vector<Play::Way>& ways) {
    double most = 0;
    for (const Play::Way& way : ways) most = std::max(most, way.minus + way.plus);
    return most;
}

} // namespace

int move_command(const MoveArgs& args, const Common& common) {
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project(args, made, task)) return status;
    const KeptMovement* movement = find_movement(*made.project, args.movement);
    if (!movement) {
        std::vector<std::string> there;
        for (size_t i = 0; i < made.project->movements.size(); ++i)
            there.push_back(std::to_string(i + 1) + " (" + made.project->movements[i].moving + ")");
        return refuse(args.project, no_such("movement", args.movement, there), 1);
    }
    Expected<MovementOutcome> outcome = problem(ProblemCode::Missing, "");
    if (args.printed) {
        auto analysis = Analyser().analyse(made.evaluation, task);
        if (!analysis) return refuse(args.project, analysis.error(), 1);
        outcome = run_movement_as_printed(made.evaluation, *analysis, *movement, task);
    } else {
        outcome = run_movement(made.evaluation, *movement, task);
    }
    if (!outcome) return refuse(args.project, outcome.error(), 1);
    const MovementResult& result = outcome->result;
    const auto stands = standing_of(made.evaluation).position_of(movement->id);
    if (const Problem* wrong = standing_of(made.evaluation).problem_of(movement->id))
        std::cerr << "loose-peg-cli: " << args.project << ": it stands as drawn: " << wrong->text() << "\n";
    if (common.json) {
        json positions = json::array();
        for (const MovementSample& sample : result.curve)
            positions.push_back(
                {{"at", sample.position}, {"min_mm", sample.gap_mm ? number_json(*sample.gap_mm) : json(nullptr)}});
        json first = nullptr;
        if (result.first_contact) {
            first = {{"at", *result.first_contact}, {"where", nullptr}, {"a", outcome->moving.name}, {"b", nullptr}};
            if (!result.interferences.empty()) {
                first["where"] = point_json(result.interferences.front().at);
                first["b"] = outcome->still.at(result.interferences.front().with);
            }
        }
        print_json({{"positions", positions},
                    {"first_contact", first},
                    {"stands_at", stands ? json(*stands) : json(nullptr)},
                    {"along", outcome->along},
                    {"rests_on", outcome->rests_on.empty() ? json(nullptr) : json(outcome->rests_on)},
                    {"play_mm", outcome->play ? json(widest(outcome->play->shifts)) : json(nullptr)},
                    {"play_deg", outcome->play ? json(widest(outcome->play->tilts)) : json(nullptr)}});
        return 0;
    }
    std::cout << outcome->moving.name << ": smallest gap " << format_number(result.smallest_gap_mm, 3) << " mm at "
              << format_number(result.smallest_at, 2) << " " << outcome->path.unit() << "\n";
    if (!outcome->along.empty()) std::cout << "  goes along: " << joined(outcome->along) << "\n";
    if (!outcome->rests_on.empty()) std::cout << "  begins on its seat on " << outcome->rests_on << "\n";
    if (stands) std::cout << "  stands at " << position_words(outcome->path, *stands) << "\n";
    if (result.first_contact)
        std::cout << "  first touches at " << format_number(*result.first_contact, 2) << " " << outcome->path.unit()
                  << "\n";
    if (outcome->play)
        std::cout << "  play " << format_number(widest(outcome->play->shifts), 2) << " mm, "
                  << format_number(widest(outcome->play->tilts), 2) << "°\n";
    return 0;
}

} // namespace lp::cli
