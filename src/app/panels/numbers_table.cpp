#include "app/panels/numbers_table.h"
#include "app/panels/readings_line.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "project/references.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QRegularExpression>
#include <QTableWidget>
#include <QVBoxLayout>

namespace lp {

using theme::Role;

namespace {
enum NumberColumn { Name, AsTyped, Value, UnitOf, Read, Note, Used, Columns };
const QuantityKind kinds[] = {QuantityKind::Length, QuantityKind::Angle, QuantityKind::Count, QuantityKind::Number};
const char* const units[] = {"mm", "deg", "count", "number"};
} // namespace

NumbersTable::NumbersTable(Session* session, QWidget* parent) : QDialog(parent), session_(session) {
    setWindowTitle("Numbers by name");
    setAccessibleName("Numbers by name");
    resize(940, 430);
    auto* rows = new QVBoxLayout(this);
    table_ = new QTableWidget(0, Columns, this);
    table_->setHorizontalHeaderLabels({"Name", "Expression", "Value", "Unit", "Readings", "Note", "Where used"});
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->verticalHeader()->hide();
    table_->setShowGrid(false);
    table_->setWordWrap(true);
    table_->setAccessibleName("Named numbers");
    table_->setTabKeyNavigation(false); // Tab goes on to the readings; arrow keys go through the cells
    int widths[] = {120, 130, 90, 86, 170, 140, 160};
    for (int c = 0; c < Columns; ++c) table_->setColumnWidth(c, widths[c]);
    rows->addWidget(table_, 1);
    says_ = new QLabel(this);
    says_->setWordWrap(true);
    says_->setStyleSheet(QString("color: %1").arg(theme::css(Role::Wrong)));
    rows->addWidget(says_);
    readings_ = new ReadingsLine(session, this);
    rows->addWidget(readings_);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int row) {
        const auto& parameters = session_->project()->parameters;
        if (!filling_ && row >= 0 && size_t(row) < parameters.size())
            readings_->set_number(parameters[size_t(row)].name);
    });
    connect(readings_, &ReadingsLine::number_changed, this, [this](const std::string& name) {
        const auto& parameters = session_->project()->parameters;
        for (size_t r = 0; r < parameters.size(); ++r)
            if (parameters[r].name == name) table_->setCurrentCell(int(r), Name);
    });
    auto* buttons = new QHBoxLayout;
    auto button = [&](const QString& words, auto call) {
        auto* b = new QPushButton(words, this);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, call);
        buttons->addWidget(b);
    };
    button("Add a number", [this] { add(); });
    button("Remove", [this] { remove(); });
    buttons->addStretch();
    button("Close", [this] { close(); });
    rows->addLayout(buttons);
    connect(table_, &QTableWidget::cellChanged, this, &NumbersTable::changed);
    connect(&session->document(), &Document::project_changed, this, &NumbersTable::fill);
    connect(&session->results(), &Results::evaluated, this, &NumbersTable::fill);
    fill();
}

void NumbersTable::fill() {
    if (filling_) return;
    filling_ = true;
    auto values = project_values(*session_->project());
    auto uses = uses_of_parameters(*session_->project());
    const auto& parameters = session_->project()->parameters;
    int row_now = table_->currentRow(), column_now = table_->currentColumn();
    table_->setRowCount(int(parameters.size()));
    for (int r = 0; r < int(parameters.size()); ++r) {
        const Parameter& p = parameters[size_t(r)];
        // What stands there already is left alone: somebody may be typing in it.
        auto cell = [&](NumberColumn column, const QString& text, bool editable, bool number) {
            QTableWidgetItem* item = table_->item(r, column);
            if (item && item->text() == text) return;
            if (!item) {
                item = new QTableWidgetItem;
                if (!editable) item->setFlags(item->flags() & ~Qt::ItemIsEditable);
                if (number) item->setFont(theme::numbers(12.5));
                table_->setItem(r, column, item);
            }
            item->setText(text);
            item->setToolTip(text);
        };
        QString value = "–";
        if (values && values->count(p.name)) value = as_shown(format_quantity(values->at(p.name).value, p.kind));
        QStringList used;
        for (const std::string& use : uses[p.name]) used << QString::fromStdString(use);
        cell(Name, QString::fromStdString(p.name), true, true);
        cell(AsTyped, to_edit(QString::fromStdString(p.expression), p.kind), true, true);
        cell(Value, value, false, true);
        QString read;
        if (!p.readings.values.empty())
            read = QString("%1, %2")
                       .arg(p.readings.values.size())
                       .arg(p.readings.follows == Follows::None ? "beside it" : follows_name(p.readings.follows));
        cell(Read, read, false, false);
        table_->item(r, Read)->setToolTip(readings_words(p));
        cell(Note, QString::fromStdString(p.note), true, false);
        cell(Used, used.isEmpty() ? "nowhere" : used.join("; "), false, false);
        auto* unit = qobject_cast<QComboBox*>(table_->cellWidget(r, UnitOf));
        if (!unit) unit = add_unit(r);
        unit->setCurrentIndex(int(std::find(std::begin(kinds), std::end(kinds), p.kind) - std::begin(kinds)));
        unit->setAccessibleName("Unit of " + QString::fromStdString(p.name));
    }
    if (row_now >= 0 && row_now < table_->rowCount() && row_now != table_->currentRow())
        table_->setCurrentCell(row_now, column_now);
    filling_ = false;
    readings_->refresh();
}

QComboBox* NumbersTable::add_unit(int row) {
    auto* unit = new QComboBox(table_);
    for (const char* name : units) unit->addItem(name);
    connect(unit, &QComboBox::activated, this, [this, row](int index) {
        const auto& parameters = session_->project()->parameters;
        if (size_t(row) >= parameters.size()) return;
        const Parameter p = parameters[size_t(row)];
        auto wrong = session_->document().edit(SetParameter{p.name, p.expression, kinds[index], {}}, true);
        // "10 mm" becomes 10 of the other unit.
        static const QRegularExpression with_unit("^([-+.0-9]+) [a-z]+$");
        if (const auto number = with_unit.match(QString::fromStdString(p.expression)); wrong && number.hasMatch())
            wrong = session_->document().edit(SetParameter{p.name, number.captured(1).toStdString(), kinds[index], {}},
                                              true);
        answer(wrong);
    });
    table_->setCellWidget(row, UnitOf, unit);
    table_->setRowHeight(row, theme::row_height + 4);
    return unit;
}

void NumbersTable::answer(const std::optional<Problem>& wrong) {
    says_->setText(wrong ? as_shown(wrong->text()) : QString());
    if (wrong) fill(); // what was typed did not hold: the old one stands again
}

void NumbersTable::changed(int row, int column) {
    const auto& parameters = session_->project()->parameters;
    if (filling_ || row < 0 || size_t(row) >= parameters.size()) return;
    Parameter p = parameters[size_t(row)];
    std::string text = table_->item(row, column)->text().trimmed().toStdString();
    if (column == Name && text != p.name) answer(session_->document().edit(RenameParameter{p.name, text}, true));
    if (column == AsTyped && text != to_edit(QString::fromStdString(p.expression), p.kind).toStdString()) {
        const QString typed = as_typed(QString::fromStdString(text), p.kind, session_->results().values());
        auto wrong = session_->document().edit(SetParameter{p.name, typed.toStdString(), {}, {}}, true);
        // "20 deg" makes a length an angle.
        for (QuantityKind kind : {QuantityKind::Length, QuantityKind::Angle})
            if (wrong && kind != p.kind &&
                !session_->document().edit(SetParameter{p.name, typed.toStdString(), kind, {}}, true))
                wrong.reset();
        answer(wrong);
    }
    if (column == Note && text != p.note)
        answer(session_->document().edit(SetParameter{p.name, p.expression, {}, text}, true));
}

void NumbersTable::add() {
    std::string name = "size";
    auto taken = [&](const std::string& wanted) {
        const auto& all = session_->project()->parameters;
        return std::any_of(all.begin(), all.end(), [&](const Parameter& p) { return p.name == wanted; });
    };
    for (int n = 2; taken(name); ++n) name = "size_" + std::to_string(n);
    answer(session_->document().edit(SetParameter{name, "10 mm", QuantityKind::Length, {}}, true));
    fill();
    table_->setCurrentCell(table_->rowCount() - 1, Name);
    if (isVisible()) table_->editItem(table_->currentItem());
}

void NumbersTable::remove() {
    int row = table_->currentRow();
    const auto& parameters = session_->project()->parameters;
    if (row < 0 || size_t(row) >= parameters.size()) return says_->setText("Choose a row first.");
    answer(session_->document().edit(RemoveParameter{parameters[size_t(row)].name}, true));
}

} // namespace lp
