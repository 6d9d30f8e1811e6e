#include "app/panels/variants_table.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace lp {

using theme::Role;

namespace {
enum Column { Name, Volume, Size, Time, Mass, Says, Columns };

QString n(double value, int digits) {
    return QString::fromStdString(format_fixed(value, digits));
}
} // namespace

VariantsTable::VariantsTable(Session* session, QWidget* parent) : QDialog(parent), session_(session) {
    setWindowTitle("Variants");
    setAccessibleName("Variants of the part");
    resize(860, 300);
    auto* rows = new QVBoxLayout(this);
    table_ = new QTableWidget(0, Columns, this);
    table_->setHorizontalHeaderLabels({"Variant", "Volume", "Size", "Time", "Mass", "Differs in"});
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->verticalHeader()->hide();
    table_->setShowGrid(false);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setAccessibleName("Variants compared");
    int widths[] = {150, 110, 160, 110, 80, 200};
    for (int c = 0; c < Columns; ++c) table_->setColumnWidth(c, widths[c]);
    rows->addWidget(table_, 1);
    says_ = new QLabel(this);
    says_->setWordWrap(true);
    rows->addWidget(says_);
    auto* buttons = new QHBoxLayout;
    name_ = new QLineEdit(this);
    name_->setPlaceholderText("name of the variant");
    name_->setAccessibleName("Name of the variant");
    name_->setFixedWidth(190);
    buttons->addWidget(name_);
    auto button = [&](const QString& words, auto call) {
        auto* b = new QPushButton(words, this);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, call);
        buttons->addWidget(b);
    };
    button("Keep the numbers as they are now", [this] { keep(); });
    connect(name_, &QLineEdit::returnPressed, this, &VariantsTable::keep);
    buttons->addStretch();
    button("Take these numbers", [this] { use(); });
    button("Drop", [this] { drop(); });
    button("Close", [this] { close(); });
    rows->addLayout(buttons);
    connect(&session->document(), &Document::project_changed, this, &VariantsTable::compare);
    connect(&session->workspace(), &Workspace::active_part_changed, this, [this] {
        if (part_ != session_->workspace().active_part()) compare();
    });
    connect(&session->results(), &Results::variants_compared, this, &VariantsTable::show_figures);
}

void VariantsTable::showEvent(QShowEvent* event) {
    QDialog::showEvent(event);
    compare();
}

void VariantsTable::compare() {
    if (!isVisible()) return;
    fill();
    if (session_->project()->part(part_)) session_->results().compare_variants(part_);
}

void VariantsTable::fill() {
    part_ = session_->workspace().active_part();
    PartPtr part = session_->project()->part(part_);
    setWindowTitle(part ? "Variants of " + QString::fromStdString(part->name) : QString("Variants"));
    int row_now = table_->currentRow();
    table_->setRowCount(part ? int(part->variants.size()) + 1 : 0);
    for (int r = 0; r < table_->rowCount(); ++r) {
        QString name = r ? QString::fromStdString(part->variants[size_t(r - 1)].name) : QString("as it is now");
        QStringList differs;
        auto now = part ? numbers_of_part(*session_->project(), *part) : std::map<std::string, std::string>();
        if (r)
            for (const auto& [key, text] : part->variants[size_t(r - 1)].numbers) {
                auto mine = now.find(key);
                if (mine != now.end() && mine->second == text) continue;
                size_t dot = key.find('.');
                QString words = QString::fromStdString(key);
                if (dot != std::string::npos) {
                    words = "step gone";
                    for (size_t i = 0; i < part->steps.size(); ++i)
                        if (to_text(part->steps[i].id) == key.substr(0, dot))
                            words = QString("%1. %2").arg(i + 1).arg(
                                QString::fromStdString(key.substr(dot + 1)).replace('_', ' '));
                }
                differs << words + " " + QString::fromStdString(text);
            }
        if (r && differs.isEmpty()) differs << "nothing: these numbers are in use";
        const QString texts[] = {name, "…", "…", "…", "…", differs.join(", ")};
        for (int c = 0; c < Columns; ++c) {
            auto* item = new QTableWidgetItem(texts[c]);
            if (c != Name && c != Says) item->setFont(theme::numbers(12.5));
            item->setToolTip(texts[c]);
            table_->setItem(r, c, item);
        }
        table_->setRowHeight(r, theme::row_height);
    }
    if (row_now >= 0 && row_now < table_->rowCount()) table_->setCurrentCell(row_now, 0);
    says_->setText(part && part->variants.empty()
                       ? "No variant is kept yet. Give the numbers as they are now a name, then change them."
                       : QString());
}

void VariantsTable::show_figures(PartId part, const std::vector<Results::VariantFigures>& figures) {
    if (part != part_ || int(figures.size()) != table_->rowCount()) return;
    for (int r = 0; r < table_->rowCount(); ++r) {
        const PartFigures& f = figures[size_t(r)].figures;
        bool body = f.volume_mm3 > 0;
        const QString texts[] = {
            body ? n(f.volume_mm3 / 1000, 2) + " cm³" : "–",
            body ? n(f.size_mm.x(), 1) + " x " + n(f.size_mm.y(), 1) + " x " + n(f.size_mm.z(), 1) + " mm" : "–",
            f.time_s > 0 ? QString::fromStdString(format_duration(f.time_s)) : "–",
            f.mass_g > 0 ? n(f.mass_g, 1) + " g" : "–"};
        for (int c = Volume; c <= Mass; ++c) table_->item(r, c)->setText(as_shown(texts[c - 1]));
        if (!f.problem.empty()) table_->item(r, Says)->setText(as_shown(f.problem));
    }
}

std::string VariantsTable::chosen() const {
    PartPtr part = session_->project()->part(part_);
    int row = table_->currentRow();
    return part && row > 0 && size_t(row) <= part->variants.size() ? part->variants[size_t(row - 1)].name
                                                                   : std::string();
}

void VariantsTable::keep() {
    auto wrong = session_->document().edit(KeepVariant{part_, name_->text().trimmed().toStdString()}, true);
    if (wrong)
        says_->setText(QString::fromStdString(wrong->text()));
    else
        name_->clear();
}

void VariantsTable::use() {
    if (chosen().empty()) return says_->setText("Choose the row of a variant first.");
    if (auto wrong = session_->document().edit(UseVariant{part_, chosen()}, true))
        says_->setText(QString::fromStdString(wrong->text()));
}

void VariantsTable::drop() {
    if (chosen().empty()) return says_->setText("Choose the row of a variant first.");
    session_->document().edit(RemoveVariant{part_, chosen()});
}

} // namespace lp
