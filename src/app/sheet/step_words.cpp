#include "app/sheet/step_words.h"
#include "steps/find_edges.h"
#include <QStringList>
#include <map>

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

QString step_title(const Project& project, uint64_t part, uint64_t id) {
    PartPtr its = project.part(part);
    for (size_t i = 0; its && i < its->steps.size(); ++i)
        if (its->steps[i].id == id)
            return its->steps[i].name.empty() ? QString("step %1").arg(i + 1)
                                              : QString::fromStdString(its->steps[i].name);
    return "a step that is gone";
}

QString outline_words(const Project& project, uint64_t part, const std::string& text) {
    if (text.empty()) return "the last outline";
    PartPtr its = project.part(part);
    for (size_t i = 0; its && i < its->steps.size(); ++i)
        if (std::to_string(its->steps[i].id) == text || its->steps[i].name == text)
            return step_title(project, part, its->steps[i].id);
    return QString::fromStdString(text);
}

QString drawing_words(const std::string& text) {
    auto drawing = drawing_from_text(text);
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

QString field_words(const Project& project, uint64_t part, const StepField& field, const std::string& text) {
    switch (field.kind) {
    case FieldKind::Drawing:
        return drawing_words(text);
    case FieldKind::Plane:
    case FieldKind::Face:
        if (text == "xy") return "the ground";
        if (text == "xz") return "the front plane";
        if (text == "yz") return "the side plane";
        if (text.empty()) return "choose …";
        if (auto face = face_reference_from(text)) {
            auto meaning = tag_meaning(face->primary);
            QString of = meaning ? " of " + step_title(project, part, meaning->step) : QString();
            return QString::fromStdString(tag_words(face->primary)) + of;
        }
        return QString::fromStdString(text);
    case FieldKind::Faces:
    case FieldKind::Edges: {
        bool edges = field.kind == FieldKind::Edges;
        if (text.empty()) return edges || field.name == "faces" ? "choose …" : "none";
        size_t picked = 0;
        QStringList words;
        for (const std::string& item : listed(text)) {
            if (item[0] == '{')
                ++picked;
            else if (item.rfind("of {", 0) == 0)
                words << "the edges of " + field_words(project, part, StepField{"", FieldKind::Face, "", 0, 0, {}, ""},
                                                       item.substr(3));
            else if (item == "all" || item == "upright")
                words << QString::fromStdString(item) + " edges";
            else
                words << (edges ? "edges " : "") + QString::fromStdString(item);
        }
        if (picked == 1 && !edges && words.isEmpty())
            return field_words(project, part, StepField{"", FieldKind::Face, "", 0, 0, {}, ""}, listed(text)[0]);
        if (picked) words.prepend(QString("%1 %2%3").arg(picked).arg(edges ? "edge" : "face", picked == 1 ? "" : "s"));
        return words.join(", ");
    }
    case FieldKind::Bodies: {
        if (text.empty()) return "choose …";
        if (text == "all") return "everything";
        if (text == "origin") return "the origin";
        QStringList words;
        for (const QString& name : QString::fromStdString(text).split(',', Qt::SkipEmptyParts))
            words << outline_words(project, part, name.trimmed().toStdString());
        return words.join(", ");
    }
    case FieldKind::Steps: {
        if (text.empty()) return "whole bodies";
        QStringList words;
        for (const QString& name : QString::fromStdString(text).split(',', Qt::SkipEmptyParts))
            words << outline_words(project, part, name.trimmed().toStdString());
        return words.join(", ");
    }
    case FieldKind::Outline:
        return outline_words(project, part, text);
    case FieldKind::Outlines: {
        QStringList words;
        for (const QString& name : QString::fromStdString(text).split(',', Qt::SkipEmptyParts))
            words << outline_words(project, part, name.trimmed().toStdString());
        return words.isEmpty() ? "choose …" : words.join(", ");
    }
    case FieldKind::Regions: {
        if (text == "all") return "all regions";
        if (text == "every") return "every region";
        auto choices = choices_from_text(text, {});
        size_t count = choices ? choices->size() : size_t(std::count(text.begin(), text.end(), ';')) + 1;
        return QString("%1 %2").arg(count).arg(count == 1 ? "region" : "regions");
    }
    default:
        return text.empty() ? QString("choose …") : QString::fromStdString(text);
    }
}

QString choice_words(const std::string& choice) {
    static const std::map<std::string, QString> words{
        {"join", "joined on"}, {"cut", "cut away"}, {"common", "common kept"}, {"new", "a body of its own"}};
    auto found = words.find(choice);
    return found == words.end() ? QString::fromStdString(choice) : found->second;
}

} // namespace lp
