#include "app/sheet/step_words.h"
#include "base/text.h"
#include <QRegularExpression>
#include <QStringList>
#include <map>
#include <set>

namespace lp {

std::vector<SentencePiece> sentence_pieces(const StepKind& kind) {
    std::vector<SentencePiece> pieces;
    const std::string& text = kind.sentence;
    int group = -1, groups = 0;
    for (size_t at = 0; at < text.size();) {
        if (text[at] == '[' || text[at] == ']') {
            group = text[at] == '[' ? groups++ : -1;
            ++at;
        } else if (text[at] == '{') {
            size_t close = text.find('}', at);
            pieces.push_back({{}, kind.field(text.substr(at + 1, close - at - 1)), group});
            at = close + 1;
        } else {
            size_t end = std::min(text.find_first_of("{[]", at), text.size());
            pieces.push_back({QString::fromStdString(text.substr(at, end - at)), nullptr, group});
            at = end;
        }
    }
    return pieces;
}

namespace {

QString step_title(const Project& project, PartId part, StepId id) {
    PartPtr its = project.part(part);
    for (size_t i = 0; its && i < its->steps.size(); ++i)
        if (its->steps[i].id == id)
            return its->steps[i].name.empty() ? QString("step %1").arg(i + 1)
                                              : QString::fromStdString(its->steps[i].name);
    return "a step that is gone";
}

/// A step or a body by its name or number.
QString named_words(const Project& project, PartId part, const std::string& text) {
    PartPtr its = project.part(part);
    for (size_t i = 0; its && i < its->steps.size(); ++i)
        if (to_text(its->steps[i].id) == text || its->steps[i].name == text)
            return step_title(project, part, its->steps[i].id);
    return QString::fromStdString(text);
}

QString drawing_words(const FieldValue& value) {
    const Expected<Drawing>& drawing = value.drawing();
    if (!drawing) return "unreadable";
    std::map<std::string, int> counts;
    for (const Element& e : drawing->elements) ++counts[element_kind_name(e.kind)];
    if (counts.empty()) return "nothing drawn yet";
    QStringList words;
    for (const auto& [kind, count] : counts)
        words << QString("%1 %2%3").arg(count).arg(QString::fromStdString(kind), count > 1 ? "s" : "");
    return words.join(", ");
}

} // namespace

namespace {

QString face_words(const Project& project, PartId part, const GeometryItem& item) {
    if (!item.face()) return QString::fromStdString(item.face_words());
    auto meaning = tag_meaning(item.face()->primary);
    QString of = meaning ? " of " + step_title(project, part, meaning->step) : QString();
    return QString::fromStdString(tag_words(item.face()->primary)) + of;
}

QString several_words(const Project& project, PartId part, const FieldValue& value, bool edges) {
    const auto& items = value.geometry();
    if (items.size() == 1 && !edges && items[0].face()) return face_words(project, part, items[0]);
    QStringList words;
    size_t picked = 0;
    for (const GeometryItem& item : items) {
        if (item.edges_of_face())
            words << (item.face() ? "the edges of " + face_words(project, part, item)
                                  : "edges " + QString::fromStdString(item.text()));
        else if (item.is_picked())
            ++picked;
        else
            words << (edges && item.text().find(' ') == std::string::npos
                          ? QString::fromStdString(item.text()) + " edges"
                          : (edges ? "edges " : "") + QString::fromStdString(item.text()));
    }
    if (picked) words.prepend(QString("%1 %2%3").arg(picked).arg(edges ? "edge" : "face", picked == 1 ? "" : "s"));
    return words.join(", ");
}

QString list_words(const Project& project, PartId part, const std::string& text) {
    QStringList words;
    for (const std::string& name : listed(text, ',')) words << named_words(project, part, name);
    return words.join(", ");
}

} // namespace

QString field_words(const Project& project, PartId part, const StepField& field, const FieldValue& value) {
    const std::string& text = value.text();
    if (text.empty()) return field.when_empty.empty() ? QString("choose …") : QString::fromStdString(field.when_empty);
    switch (field.kind) {
    case FieldKind::Drawing:
        return drawing_words(value);
    case FieldKind::Plane:
    case FieldKind::Face:
        if (text == "xy") return "the ground";
        if (text == "xz") return "the front plane";
        if (text == "yz") return "the side plane";
        return value.geometry().size() == 1 ? face_words(project, part, value.geometry()[0])
                                            : QString::fromStdString(text);
    case FieldKind::Faces:
    case FieldKind::Edges:
        return several_words(project, part, value, field.kind == FieldKind::Edges);
    case FieldKind::Bodies:
        if (text == "all") return "everything";
        if (std::count(field.choices.begin(), field.choices.end(), text)) return "the " + QString::fromStdString(text);
        return list_words(project, part, text);
    case FieldKind::Steps:
    case FieldKind::Outlines:
        return list_words(project, part, text);
    case FieldKind::Outline:
        return named_words(project, part, text);
    case FieldKind::Regions: {
        if (text == "all") return "all regions";
        if (text == "every") return "every region";
        auto choices = choices_from_text(text, {});
        size_t count = choices ? choices->size() : size_t(std::count(text.begin(), text.end(), ';')) + 1;
        return QString("%1 %2").arg(count).arg(count == 1 ? "region" : "regions");
    }
    case FieldKind::Text:
        if (field.name == "dabs") { // what the brush left is no reading
            const auto touches = std::count(text.begin(), text.end(), ';') + 1;
            return QString("the brush (%1 %2)").arg(touches).arg(touches == 1 ? "touch" : "touches");
        }
        return QString::fromStdString(text);
    default:
        return QString::fromStdString(text);
    }
}

QString counted_words(const QString& words, double count) {
    static const QRegularExpression forms("(\\w+)\\|(\\w+)");
    return QString(words).replace(forms, count == 1 ? "\\1" : "\\2");
}

QString sentence_of(const Project& project, PartId part, const Step& step, const ParameterValues& values) {
    const StepKind* kind = find_step_kind(step.kind);
    if (!kind) return QString::fromStdString(step.kind);
    const auto pieces = sentence_pieces(*kind);
    std::set<int> unusual;
    for (const SentencePiece& piece : pieces)
        if (piece.field && piece.group >= 0 && field_text(step, *piece.field) != piece.field->standard)
            unusual.insert(piece.group);
    QString sentence;
    double count = 0;
    for (const SentencePiece& piece : pieces) {
        if (piece.group >= 0 && !unusual.count(piece.group)) continue;
        if (!piece.field) {
            sentence += counted_words(piece.words, count);
            continue;
        }
        const FieldValue value = field_value(step, *piece.field);
        if (is_quantity(piece.field->kind)) {
            auto number = number_in_field(*piece.field, value.text(), values);
            if (piece.field->kind == FieldKind::Count) count = number.value_or(0);
            sentence += QString::fromStdString(number ? format_quantity(*number, quantity_of(piece.field->kind))
                                                      : value.text());
        } else if (piece.field->kind == FieldKind::Choice) {
            sentence += choice_words(value.text());
        } else {
            sentence += field_words(project, part, *piece.field, value);
        }
    }
    return sentence.simplified();
}

QString choice_words(const std::string& choice) {
    static const std::map<std::string, QString> words{
        {"join", "joined on"}, {"cut", "cut away"}, {"common", "common kept"}, {"new", "a body of its own"}};
    auto found = words.find(choice);
    return found == words.end() ? QString::fromStdString(choice) : found->second;
}

} // namespace lp
