#include "app/sheet/step_words.h"
#include <map>

namespace lp {

std::vector<SentencePiece> sentence_pieces(const StepKind& kind) {
    std::vector<SentencePiece> pieces;
    const std::string& text = kind.sentence;
    for (size_t at = 0; at < text.size();) {
        size_t open = text.find('{', at);
        if (open == std::string::npos) open = text.size();
        if (open > at) pieces.push_back({QString::fromStdString(text.substr(at, open - at)), nullptr});
        if (open == text.size()) break;
        size_t close = text.find('}', open);
        pieces.push_back({{}, kind.field(text.substr(open + 1, close - open - 1))});
        at = close + 1;
    }
    return pieces;
}

QString choice_words(const std::string& choice) {
    static const std::map<std::string, QString> words{
        {"join", "joined on"}, {"cut", "cut away"}, {"common", "common kept"}, {"new", "a body of its own"}};
    auto found = words.find(choice);
    return found == words.end() ? QString::fromStdString(choice) : found->second;
}

} // namespace lp
