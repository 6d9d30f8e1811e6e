// Sentences of steps cut into words and fields, and the words of choices.
#pragma once
#include "project/project.h"
#include <QString>
#include <vector>

namespace lp {

struct SentencePiece {
    QString words; ///< when field is null
    const StepField* field = nullptr;
    int group = -1; ///< pieces in one pair of square brackets: shown when one of their fields is not as usual
};
/// The sentence of a kind of step, in order.
std::vector<SentencePiece> sentence_pieces(const StepKind& kind);
/// What a field that is no number shows: "top of lid", "2 regions", "4 lines, 1 circle".
QString field_words(const Project& project, PartId part, const StepField& field, const FieldValue& value);
/// Words of a sentence after a count: "lug|lugs" is one of the two.
QString counted_words(const QString& words, double count);
/// A step's whole sentence as it is read, usual numbers left out as the sheet leaves them out.
QString sentence_of(const Project& project, PartId part, const Step& step, const ParameterValues& values);
/// "join" -> "joined", "cut" -> "cut away" ...
QString choice_words(const std::string& choice);

} // namespace lp
