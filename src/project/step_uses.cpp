#include "project/step_uses.h"
#include "shape/face_reference.h"
#include "steps/find_edges.h"
#include <algorithm>

namespace lp {
namespace {

class Uses {
  public:
    explicit Uses(const Part& part) : part_(part) {}

    std::vector<uint64_t> of(const Step& step) {
        const StepKind* kind = find_step_kind(step.kind);
        if (!kind) return {};
        for (const StepField& field : kind->fields) {
            std::string text = field_text(step, field);
            switch (field.kind) {
            case FieldKind::Outline:
            case FieldKind::Outlines:
            case FieldKind::Steps:
            case FieldKind::Bodies: {
                if (step.kind == "take") break; // names bodies of another part
                for (const std::string& name : listed(text, ',')) add_name(name);
                break;
            }
            case FieldKind::Plane:
            case FieldKind::Face:
            case FieldKind::Faces:
            case FieldKind::Edges:
                for (const std::string& item : listed(text)) add_geometry(item);
                break;
            default:
                break;
            }
        }
        std::erase(found_, step.id);
        return found_;
    }

  private:
    void add(uint64_t id) {
        bool here = std::any_of(part_.steps.begin(), part_.steps.end(), [&](const Step& s) { return s.id == id; });
        if (here && std::find(found_.begin(), found_.end(), id) == found_.end()) found_.push_back(id);
    }
    void add_name(const std::string& name) {
        for (const Step& s : part_.steps)
            if (!name.empty() && (s.name == name || std::to_string(s.id) == name)) add(s.id);
    }
    void add_tag(Tag tag) {
        auto meaning = tag_meaning(tag);
        if (!meaning) return;
        add(meaning->step);
        if (meaning->parent) add_tag(meaning->parent);
    }
    void add_geometry(const std::string& item) {
        if (auto edge = edge_reference_from(item)) {
            add_tag(edge->a.primary);
            add_tag(edge->b.primary);
        } else if (auto face = face_reference_from(item.rfind("of {", 0) == 0 ? item.substr(3) : item)) {
            add_tag(face->primary);
        } else if (size_t of = item.rfind("of "); of != std::string::npos) {
            add_name(item.substr(of + 3));
        } else if (item.rfind("made by ", 0) == 0) {
            add_name(item.substr(8));
        }
    }

    const Part& part_;
    std::vector<uint64_t> found_;
};

std::string step_words(const Part& part, uint64_t id) {
    for (size_t i = 0; i < part.steps.size(); ++i)
        if (part.steps[i].id == id)
            return "step " + std::to_string(i + 1) +
                   (part.steps[i].name.empty() ? std::string() : " (" + part.steps[i].name + ")");
    return "a step";
}

} // namespace

std::vector<uint64_t> steps_used_by(const Part& part, const Step& step) {
    return Uses(part).of(step);
}

std::optional<Problem> check_move(const Part& part, uint64_t step, size_t index) {
    std::vector<uint64_t> order;
    for (const Step& s : part.steps)
        if (s.id != step) order.push_back(s.id);
    order.insert(order.begin() + long(std::min(index, order.size())), step);
    auto place = [&](uint64_t id) { return std::find(order.begin(), order.end(), id) - order.begin(); };
    for (const Step& s : part.steps)
        for (uint64_t used : steps_used_by(part, s)) {
            bool now_after = place(used) > place(s.id), concerns = s.id == step || used == step;
            if (!now_after || !concerns) continue;
            return Problem{ProblemCode::Missing,
                           "It cannot go there: " + step_words(part, s.id) + " uses " + step_words(part, used) +
                               ", which has to come before it.",
                           "Move that one first, or let it refer to something else.",
                           {},
                           {}};
        }
    return std::nullopt;
}

} // namespace lp
