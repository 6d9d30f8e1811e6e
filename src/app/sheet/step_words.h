// Sentences of steps cut into words and fields, and the words of choices.
#pragma once
#include "project/project.h"
#include <QString>
#include <vector>

namespace lp {

struct SentencePiece {
    QString words; ///< when field is null
    const StepField* field = nullptr;
};
/// The sentence of a kind of step, in order.
std::vector<SentencePiece> sentence_pieces(const StepKind& kind);
/// "join" -> "joined", "cut" -> "cut away" ...
QString choice_words(const std::string& choice);

} // namespace lp
