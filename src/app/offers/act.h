// One thing that can be done, as the panel of all of them lists it.
#pragma once
#include <QStringList>
#include <functional>
#include <optional>

namespace lp {

/// Where people look for it. The order is the panel's.
enum class ActGroup { Add, TakeAway, Edges, Placing, Splitting, Fits, Letters, Meshes, Check, Bed, Files };
/// "Add material", "Take away" ...
QString group_words(ActGroup group);

struct Act {
    ActGroup group = ActGroup::Add;
    QString id = {};            ///< of its line drawing, data/icons/acts.svg
    QString words;              ///< its name
    QString line;               ///< what happens to the plastic
    QStringList synonyms = {};  ///< other words it is found by
    bool for_selection = false; ///< it is about what is chosen
    bool for_part = false;      ///< it is about the part of what is chosen
    bool of_drawing = false;
    QString needs = {}; ///< what must be chosen before it fits; empty when it fits now
    /// Does it, numbers in the order of the step's fields; why not, in words, otherwise.
    std::function<std::optional<QString>(const QStringList& numbers)> run;
    bool fits() const { return needs.isEmpty(); }
};

/// A typed line parted: words that look for something, and the numbers and choices after them that fill it in.
struct ActQuery {
    QStringList words, numbers;
};
ActQuery query_of(const QString& line);
/// How well an act answers the words; 0: not at all. All of them must be found in its name, line or synonyms.
int likeness(const Act& act, const QStringList& words);

} // namespace lp
