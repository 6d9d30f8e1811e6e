#include "app/offers/act.h"
#include <algorithm>

namespace lp {

QString group_words(ActGroup group) {
    static const char* words[] = {"Add material",      "Take away",        "Edges and faces",     "Place and repeat",
                                  "Split and bend",    "Fits and joints",  "Letters and emblems", "Meshes",
                                  "Check and measure", "Bed and supports", "Project and files"};
    return words[size_t(group)];
}

ActQuery query_of(const QString& line) {
    ActQuery query;
    const QString asked =
        line.trimmed().startsWith('/') ? line.trimmed().mid(1) : line; // the key that opened it, once more
    for (const QString& word : asked.split(' ', Qt::SkipEmptyParts)) {
        const QChar first = word[0];
        const bool number = first.isDigit() || QString("⌀Ø½¼¾.-+(").contains(first);
        (number || !query.numbers.isEmpty() ? query.numbers : query.words) << word;
    }
    return query;
}

int likeness(const Act& act, const QStringList& words) {
    int all = 1;
    for (const QString& word : words) {
        auto begins = [&](const QString& text) { return text.startsWith(word, Qt::CaseInsensitive); };
        const QStringList name = act.words.split(' ', Qt::SkipEmptyParts);
        int best = act.words.compare(word, Qt::CaseInsensitive) == 0               ? 60
                   : begins(act.words)                                             ? 40
                   : std::any_of(name.begin(), name.end(), begins)                 ? 20
                   : std::any_of(act.synonyms.begin(), act.synonyms.end(), begins) ? 12
                   : act.words.contains(word, Qt::CaseInsensitive)                 ? 6
                   : act.line.contains(word, Qt::CaseInsensitive)                  ? 3
                                                                                   : 0;
        if (!best) return 0;
        all += best;
    }
    return all;
}

} // namespace lp
