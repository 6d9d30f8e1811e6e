// Lists that are typed line by line: stops of a print, layers of other heights, the legs of a way.
#pragma once
#include "app/theme/theme.h"
#include "app/widgets/column.h"
#include "app/widgets/value_field.h"
#include <QHBoxLayout>
#include <QPointer>
#include <QPushButton>
#include <algorithm>

namespace lp {

/// A row of words with a button at its right.
inline QPushButton* add_line(QWidget* parent, QBoxLayout* to, const QString& words, const QString& button) {
    auto* row = new QWidget(parent);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 0, theme::margin, 0);
    auto* label = new QLabel(words, row);
    label->setWordWrap(true);
    auto* press = new QPushButton(button, row);
    press->setFlat(true);
    box->addWidget(label, 1);
    box->addWidget(press);
    to->addWidget(row);
    return press;
}

/// Lines with *Change* and *Forget*, and a field for one more: what is changed comes into it as it was typed.
template <class One> struct TypedLines {
    Session* session;
    PartId part;
    std::vector<One> Part::*list;
    QString what; ///< "stop %1 of the print"
    std::function<QString(const Part&, const One&)> words;
    std::function<std::string(const One&)> typed;
    std::function<Expected<One>(const std::string&)> read;
    std::function<Edit(PartId, std::vector<One>)> edit;

    /// With one put in the place of another, or without it.
    std::optional<Problem> put(const std::optional<One>& before, const std::optional<One>& after) const {
        const PartPtr now = session->project()->part(part);
        if (!now) return std::nullopt;
        std::vector<One> all = (*now).*list;
        auto found = before ? std::find(all.begin(), all.end(), *before) : all.end();
        if (before && found == all.end()) return std::nullopt; // gone meanwhile
        if (found == all.end())
            all.push_back(*after);
        else if (after)
            *found = *after;
        else
            all.erase(found);
        return session->document().edit(edit(part, all), true);
    }
};

template <class One>
ValueField* add_typed_lines(QWidget* parent, QBoxLayout* to, const Part& part, const TypedLines<One>& lines,
                            const QString& name, const QString& hint) {
    const auto changed = std::make_shared<std::optional<One>>();
    ValueRow row = make_value_row(name, hint, parent);
    const std::vector<One>& all = part.*(lines.list);
    row.field->set_value(all.empty() ? "none" : "one more", "");
    for (size_t i = 0; i < all.size(); ++i) {
        const QString its = lines.what.arg(i + 1);
        auto* off = add_line(parent, to, lines.words(part, all[i]), "Forget");
        off->setAccessibleName("Forget " + its);
        QObject::connect(
            off, &QPushButton::clicked, lines.session, [lines, one = all[i]] { lines.put(one, std::nullopt); },
            Qt::QueuedConnection);
        auto* change = new QPushButton("Change", off->parentWidget());
        change->setFlat(true);
        change->setAccessibleName("Change " + its);
        static_cast<QHBoxLayout*>(off->parentWidget()->layout())->insertWidget(1, change);
        QObject::connect(change, &QPushButton::clicked, row.field, [lines, one = all[i], changed, field = row.field] {
            *changed = one;
            field->begin_edit(QString::fromStdString(lines.typed(one)));
        });
    }
    QObject::connect(row.field, &ValueField::closed, row.field, [changed] { changed->reset(); });
    QObject::connect(row.field, &ValueField::submitted, row.field,
                     [lines, changed, field = row.field](const QString& typed) {
                         QPointer<ValueField> alive(field);
                         const auto one = lines.read(typed.toStdString());
                         const auto wrong = one ? lines.put(*changed, *one) : std::optional<Problem>(one.error());
                         if (!alive) return;
                         if (wrong) return field->refuse(QString::fromStdString(wrong->text()));
                         field->accept();
                     });
    to->addWidget(row.row);
    return row.field;
}

} // namespace lp
