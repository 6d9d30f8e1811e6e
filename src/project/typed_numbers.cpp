#include "project/typed_numbers.h"
#include "base/text.h"
#include <nlohmann/json.hpp>

namespace lp {
namespace {

enum class Holder { Printer, Material, MaterialFit, Fit, Beds, Ways, Supports };

struct NumberKey {
    Holder holder;
    std::string name; ///< of the fit, or the number's key in the card's JSON
    PartId part = {};
};

std::optional<NumberKey> read_key(const std::string& key) {
    auto after = [&](const std::string& start) -> std::optional<std::string> {
        if (key.compare(0, start.size(), start) != 0) return std::nullopt;
        return key.substr(start.size());
    };
    if (auto name = after("printer ")) return NumberKey{Holder::Printer, *name};
    if (auto name = after("material fit ")) return NumberKey{Holder::MaterialFit, *name};
    if (auto name = after("material ")) return NumberKey{Holder::Material, *name};
    if (auto name = after("fit ")) return NumberKey{Holder::Fit, *name};
    if (auto name = after("ways ")) return NumberKey{Holder::Ways, *name};
    if (key == "beds spacing_mm") return NumberKey{Holder::Beds, "spacing_mm"};
    if (auto rest = after("supports ")) {
        const size_t space = rest->find(' ');
        if (space == 0 || space > 18 || rest->find_first_not_of("0123456789") != space) return std::nullopt;
        return NumberKey{Holder::Supports, rest->substr(space + 1), PartId(std::stoull(*rest))};
    }
    return std::nullopt;
}

struct PostNumber {
    const char* name;
    double SupportOptions::*member;
};
constexpr PostNumber post_numbers[] = {{"contact_gap_mm", &SupportOptions::contact_gap_mm},
                                       {"spacing_mm", &SupportOptions::spacing_mm},
                                       {"post_mm", &SupportOptions::post_mm},
                                       {"tip_mm", &SupportOptions::tip_mm},
                                       {"neck_mm", &SupportOptions::neck_mm},
                                       {"foot_mm", &SupportOptions::foot_mm},
                                       {"brim_mm", &SupportOptions::brim_mm},
                                       {"brim_gap_mm", &SupportOptions::brim_gap_mm}};

const PoseWeightRow* pose_weight(const std::string& key) {
    for (const PoseWeightRow& row : pose_weight_rows())
        if (key == row.key) return &row;
    return nullptr;
}

Problem no_number(const std::string& key) {
    return {ProblemCode::Missing, "There is no number " + quoted_start(key) + ".", "It may be gone with its part."};
}

/// A number of a card by its JSON key; null when the card has no plain number there.
template <class Card> nlohmann::json card_number(const Card& card, const std::string& name) {
    nlohmann::json json = card;
    auto found = json.find(name);
    return found != json.end() && found->is_number() ? *found : nlohmann::json();
}
template <class Card> Card card_with(const Card& card, const std::string& name, double value) {
    nlohmann::json json = card;
    json[name] = json[name].is_number_integer() ? nlohmann::json(int(std::lround(value))) : nlohmann::json(value);
    return json.get<Card>();
}

double SupportOptions::*post_number(const std::string& name) {
    for (const PostNumber& one : post_numbers)
        if (name == one.name) return one.member;
    return nullptr;
}

int SupportOptions::*layer_number(const std::string& name) {
    return name == "raft_layers"        ? &SupportOptions::raft_layers
           : name == "interface_layers" ? &SupportOptions::interface_layers
           : name == "gap_layers"       ? &SupportOptions::gap_layers
                                        : nullptr;
}

bool ends_with(const std::string& text, const std::string& end) {
    return text.size() >= end.size() && text.compare(text.size() - end.size(), end.size(), end) == 0;
}

/// "hole_shrink_mm": "hole shrink".
std::string plain_words(std::string name) {
    for (const char* unit : {"_mm", "_deg"})
        if (ends_with(name, unit)) name.resize(name.size() - std::string(unit).size());
    std::replace(name.begin(), name.end(), '_', ' ');
    return name;
}

} // namespace

Expected<TypedNumber> number_now(const Project& project, const std::string& key) {
    const auto read = read_key(key);
    if (!read) return pass_on(no_number(key));
    const std::string& name = read->name;
    nlohmann::json number;
    switch (read->holder) {
    case Holder::Printer:
        number = card_number(project.printer, name);
        break;
    case Holder::Material:
        number = card_number(project.material, name);
        break;
    case Holder::MaterialFit:
        if (const NamedFit* fit = find_fit(project.fits, name)) return TypedNumber{fit_gap_of(*fit, project.material)};
        break;
    case Holder::Fit:
        if (const NamedFit* fit = find_fit(project.fits, name)) return TypedNumber{fit->gap_mm};
        break;
    case Holder::Beds:
        return TypedNumber{project.beds.spacing_mm};
    case Holder::Ways:
        if (auto row = pose_weight(name)) return TypedNumber{project.pose_weights.*row->member, QuantityKind::Number};
        break;
    case Holder::Supports:
        if (PartPtr part = project.part(read->part)) {
            if (auto layers = layer_number(name))
                return TypedNumber{double(part->supports.options.*layers), QuantityKind::Count};
            if (auto member = post_number(name)) return TypedNumber{part->supports.options.*member};
        }
        break;
    }
    if (number.is_null()) return pass_on(no_number(key));
    const QuantityKind kind = ends_with(name, "_mm")    ? QuantityKind::Length
                              : ends_with(name, "_deg") ? QuantityKind::Angle
                              : name == "walls"         ? QuantityKind::Count
                                                        : QuantityKind::Number;
    return TypedNumber{number.get<double>(), kind};
}

Expected<SingleEdit> edit_of_number(const Project& project, const std::string& key, double value) {
    if (auto now = number_now(project, key); !now) return pass_on(now);
    const NumberKey read = *read_key(key);
    switch (read.holder) {
    case Holder::Printer:
        return SingleEdit(SetPrinter{card_with(project.printer, read.name, value)});
    case Holder::Material:
        return SingleEdit(SetMaterial{card_with(project.material, read.name, value)});
    case Holder::MaterialFit: {
        MaterialCard card = project.material;
        card.fits[read.name] = value;
        return SingleEdit(SetMaterial{std::move(card)});
    }
    case Holder::Fit:
        return SingleEdit(SetFitGap{read.name, value});
    case Holder::Beds: {
        BedSettings beds = project.beds;
        beds.spacing_mm = value;
        return SingleEdit(SetBeds{beds});
    }
    case Holder::Ways: {
        PoseWeights weights = project.pose_weights;
        weights.*pose_weight(read.name)->member = value;
        return SingleEdit(SetPoseWeights{weights});
    }
    case Holder::Supports:
        break;
    }
    SupportSettings supports = project.part(read.part)->supports;
    if (auto layers = layer_number(read.name))
        supports.options.*layers = int(std::lround(std::clamp(value, -1.0, 1000.0)));
    else
        supports.options.*post_number(read.name) = value;
    return SingleEdit(SetSupports{read.part, std::move(supports)});
}

std::string number_words(const Project& project, const std::string& key) {
    const auto read = read_key(key);
    if (!read) return key;
    switch (read->holder) {
    case Holder::Printer:
        return "the printer card, " + plain_words(read->name);
    case Holder::Material:
        return "the material card, " + plain_words(read->name);
    case Holder::MaterialFit:
        return "the material card, fit " + read->name;
    case Holder::Fit:
        return "fit " + read->name;
    case Holder::Beds:
        return "the beds, spacing";
    case Holder::Ways: {
        const PoseWeightRow* row = pose_weight(read->name);
        return std::string("ways up, ") + (row ? row->words : read->name.c_str());
    }
    case Holder::Supports:
        break;
    }
    PartPtr part = project.part(read->part);
    return "the supports of " + (part ? part->name : "a part that is gone") + ", " + plain_words(read->name);
}

Expected<ParameterValues> values_for_numbers(const Project& project) {
    auto values = project_values(project);
    if (!values) return values;
    std::erase_if(*values, [&](const auto& value) {
        return std::none_of(project.parameters.begin(), project.parameters.end(),
                            [&](const Parameter& p) { return p.name == value.first; });
    });
    return values;
}

Expected<std::vector<FollowingNumber>> follow_formulas(const Project& before, Project& project) {
    std::vector<FollowingNumber> moved;
    if (project.formulas.empty()) return moved;
    const auto values = values_for_numbers(project);
    for (auto at = project.formulas.begin(); at != project.formulas.end();) {
        const auto& [key, formula] = *at;
        const auto now = number_now(project, key), then = number_now(before, key);
        const auto old = before.formulas.find(key);
        const bool set_otherwise =
            now && then && then->value != now->value && old != before.formulas.end() && old->second == formula;
        if (!now || set_otherwise) {
            at = project.formulas.erase(at);
            continue;
        }
        ++at;
        if (!values) continue; // the named numbers cannot be worked out: said elsewhere, the number stays
        const std::string words = number_words(project, key) + ", " + formula;
        auto number = evaluate_expression(formula, now->kind, *values);
        if (!number) return pass_on(in_number(words, number.error()));
        if (*number == now->value) continue;
        auto edit = edit_of_number(project, key, *number);
        if (!edit) return pass_on(edit);
        moved.push_back({words, std::move(*edit)});
    }
    return moved;
}

Problem in_number(const std::string& words, Problem problem) {
    problem.sentence = "In " + words + ": " + problem.sentence;
    return problem;
}

} // namespace lp
