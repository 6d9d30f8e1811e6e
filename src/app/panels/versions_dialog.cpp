#include "app/panels/versions_dialog.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/files.h"
#include "handoff/part_picture.h"
#include "project/archive.h"
#include <QCoreApplication>
#include <QDate>
#include <QDir>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QProcess>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace lp {

using theme::Role;

namespace {

enum NumberColumn { What, Before, Now, NumberColumns };

QString text(const std::string& words) {
    return QString::fromStdString(words);
}

QTableWidget* make_table(const QStringList& heads, const QString& name, QWidget* parent) {
    auto* table = new QTableWidget(0, int(heads.size()), parent);
    table->setHorizontalHeaderLabels(heads);
    table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table->horizontalHeader()->setStretchLastSection(true);
    table->verticalHeader()->hide();
    table->setShowGrid(false);
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setSelectionMode(QAbstractItemView::SingleSelection);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setAccessibleName(name);
    return table;
}

void fill_row(QTableWidget* table, int row, const QStringList& cells) {
    for (int c = 0; c < cells.size(); ++c) {
        auto* item = new QTableWidgetItem(as_shown(cells[c]));
        item->setToolTip(as_shown(cells[c]));
        table->setItem(row, c, item);
    }
    table->setRowHeight(row, theme::row_height);
}

/// The part now with what was added in the accent, and what was taken away beside it, paler. Beside the window.
QImage picture_of(const PartDifference& difference, const TriMesh& now, const QSize& size) {
    TriMesh all = now;
    all.tags.clear();
    std::vector<uint32_t> colours(all.triangles.size(), 0xd8d2c4);
    auto put = [&](const std::shared_ptr<const TriMesh>& mesh, const QColor& colour) {
        if (!mesh) return;
        // Drawn a hair larger, so that it is seen where it lies in the part's own surface.
        TriMesh grown = *mesh;
        grown.tags.clear();
        const Vec3 middle = bounding_box(grown).center();
        for (Vec3& v : grown.vertices) v = middle + 1.002 * (v - middle);
        append(all, grown);
        colours.resize(all.triangles.size(), colour.rgb() & 0xffffff);
    };
    put(difference.added, theme::colour(Role::Accent));
    put(difference.removed, theme::colour(Role::Wrong));
    const PartPicture picture = draw_part(all, size.width(), size.height(), 12, colours);
    return QImage(reinterpret_cast<const uchar*>(picture.pixels.data()), picture.width, picture.height,
                  QImage::Format_ARGB32)
        .copy();
}

} // namespace

VersionsDialog::VersionsDialog(Session* session, QWidget* parent) : QDialog(parent), session_(session) {
    setWindowTitle("Versions");
    setAccessibleName("Versions of the design");
    resize(980, 560);
    auto* columns = new QHBoxLayout(this);
    auto* left = new QVBoxLayout;
    make_list(left);
    columns->addLayout(left, 2);
    auto* right = new QVBoxLayout;
    make_comparison(right);
    columns->addLayout(right, 5);
    connect(&session->document(), &Document::project_changed, this, &VersionsDialog::fill);
}

void VersionsDialog::make_list(QBoxLayout* into) {
    name_ = new QLineEdit(this);
    name_->setPlaceholderText("name of the version");
    name_->setAccessibleName("Name of the version");
    into->addWidget(name_);
    auto button = [&](const QString& words, const QString& hint, auto call) {
        auto* b = new QPushButton(words, this);
        b->setAutoDefault(false);
        b->setToolTip(hint);
        connect(b, &QPushButton::clicked, this, call);
        into->addWidget(b);
        return b;
    };
    button("Keep the design as it is now", "All parts, numbers and cards, under this name", [this] { keep(); });
    connect(name_, &QLineEdit::returnPressed, this, &VersionsDialog::keep);
    versions_ = new QListWidget(this);
    versions_->setAccessibleName("Kept versions");
    into->addWidget(versions_, 1);
    connect(versions_, &QListWidget::currentRowChanged, this, &VersionsDialog::compare);
    button("Open beside", "In a window of its own; what is changed there is not this project",
           [this] { open_beside(); });
    button("Drop", "Takes the version out of the project", [this] { drop(); });
    button("Close", "", [this] { close(); });
}

void VersionsDialog::make_comparison(QBoxLayout* into) {
    says_ = new QLabel(this);
    says_->setWordWrap(true);
    into->addWidget(says_);
    numbers_ = make_table({"Number", "Then", "Now"}, "Numbers that have become other ones", this);
    numbers_->setColumnWidth(What, 300);
    numbers_->setColumnWidth(Before, 160);
    into->addWidget(numbers_, 3);
    auto* line = new QHBoxLayout;
    take_ = new QPushButton("Take it as it was then", this);
    take_->setAutoDefault(false);
    take_->setToolTip("The number of the chosen row as the version has it");
    connect(take_, &QPushButton::clicked, this, &VersionsDialog::take_over);
    line->addWidget(take_);
    line->addStretch();
    into->addLayout(line);
    parts_ = make_table({"Part", "Then and now"}, "Parts compared", this);
    parts_->setColumnWidth(0, 150);
    connect(parts_, &QTableWidget::currentCellChanged, this, [this](int row) { show_picture(row); });
    auto* below = new QHBoxLayout;
    below->addWidget(parts_, 3);
    picture_ = new QLabel(this);
    picture_->setFixedSize(280, 200);
    picture_->setAccessibleName("What was added and taken away");
    below->addWidget(picture_);
    into->addLayout(below, 3);
    part_says_ = new QLabel(this); // whole, where its row is cut short
    part_says_->setWordWrap(true);
    part_says_->setMinimumHeight(2 * fontMetrics().lineSpacing());
    part_says_->setAlignment(Qt::AlignTop);
    into->addWidget(part_says_);
}

void VersionsDialog::showEvent(QShowEvent* event) {
    QDialog::showEvent(event);
    name_->setFocus(); // wherever the hand was when it was closed
    fill();
}

void VersionsDialog::fill() {
    if (!isVisible()) return;
    const std::string now = chosen();
    const auto& kept = session_->project()->versions;
    {
        const QSignalBlocker quiet(versions_);
        versions_->clear();
        for (const KeptVersion& version : kept)
            versions_->addItem(text(version.name) + (version.date.empty() ? QString() : ", " + text(version.date)));
        for (size_t i = 0; i < kept.size(); ++i)
            if (kept[i].name == now) versions_->setCurrentRow(int(i));
        if (versions_->currentRow() < 0 && !kept.empty()) versions_->setCurrentRow(int(kept.size()) - 1);
    }
    compare();
}

std::string VersionsDialog::chosen() const {
    const int row = versions_->currentRow();
    const auto& kept = session_->project()->versions;
    return row >= 0 && size_t(row) < kept.size() ? kept[size_t(row)].name : std::string();
}

/// Numbers at once, bodies beside the window.
void VersionsDialog::compare() {
    differences_.clear();
    numbers_->setRowCount(0);
    show_parts({});
    compared_ = false;
    const uint64_t question = ++asked_;
    take_->setEnabled(false);
    if (chosen().empty()) {
        says_->setText("No version is kept yet. Give the design as it is now a name; whatever is changed after it can "
                       "be compared with it and taken back.");
        return;
    }
    auto before = version_of(*session_->project(), chosen());
    if (!before) {
        says_->setText(text(before.error().text()));
        return;
    }
    differences_ = number_differences(**before, *session_->project());
    says_->setText(differences_.empty() ? QString("No number has changed since %1.").arg(text(chosen()))
                                        : QString("Since %1:").arg(text(chosen())));
    numbers_->setRowCount(int(differences_.size()));
    for (int r = 0; r < numbers_->rowCount(); ++r) {
        const NumberDifference& d = differences_[size_t(r)];
        fill_row(numbers_, r,
                 {text(d.words), d.before.empty() ? "not there" : text(d.before_told),
                  d.now.empty() ? "not there" : text(d.now_told)});
    }
    if (!differences_.empty()) numbers_->setCurrentCell(0, 0);
    take_->setEnabled(!differences_.empty());
    part_says_->setText("The parts are being compared …");
    session_->worker().start(
        Lane::Asked, "versions",
        [this, question, before = *before, now = session_->project(), evaluator = evaluator_](const Task& task) {
            auto found = part_differences(*evaluator, before, now, task);
            session_->worker().post([this, question, found = std::move(found)] {
                if (question != asked_) return;
                if (found) return show_parts(*found);
                part_says_->clear();
                if (found.error().code != ProblemCode::Cancelled) says_->setText(text(found.error().text()));
            });
        });
}

void VersionsDialog::show_parts(const std::vector<PartDifference>& differences) {
    part_differences_ = differences;
    compared_ = !differences.empty();
    parts_->setRowCount(int(differences.size()));
    int first = -1;
    for (int r = 0; r < parts_->rowCount(); ++r) {
        const PartDifference& d = differences[size_t(r)];
        fill_row(parts_, r, {text(d.name), text(d.says())});
        if (first < 0 && !d.same()) first = r;
    }
    parts_->setCurrentCell(std::max(first, 0), 0);
    show_picture(parts_->currentRow());
}

void VersionsDialog::show_picture(int row) {
    picture_->clear();
    part_says_->clear();
    const uint64_t picture = ++pictures_;
    if (row < 0 || size_t(row) >= part_differences_.size() || !session_->results().evaluation()) return;
    const PartDifference& difference = part_differences_[size_t(row)];
    const PartResult* made = session_->results().evaluation()->part(difference.part);
    if (!made || !made->mesh) return picture_->setText("The part is no more there.");
    picture_->setAccessibleDescription(text(difference.says()));
    part_says_->setText(as_shown(text(difference.name + ": " + difference.says())));
    session_->worker().start(Lane::Asked, "a version's picture",
                             [this, picture, difference, mesh = made->mesh, size = picture_->size()](const Task&) {
                                 session_->worker().post([this, picture, image = picture_of(difference, *mesh, size)] {
                                     if (picture == pictures_) picture_->setPixmap(QPixmap::fromImage(image));
                                 });
                             });
}

QString VersionsDialog::says() const {
    return says_->text();
}

void VersionsDialog::keep() {
    const std::string name = name_->text().trimmed().toStdString();
    auto wrong =
        session_->document().edit(KeepVersion{name, QDate::currentDate().toString(Qt::ISODate).toStdString()}, true);
    if (wrong) return says_->setText(text(wrong->text()));
    name_->clear();
    for (int i = 0; i < versions_->count(); ++i)
        if (session_->project()->versions[size_t(i)].name == name) versions_->setCurrentRow(i);
}

void VersionsDialog::take_over() {
    const int row = numbers_->currentRow();
    if (row < 0 || size_t(row) >= differences_.size()) return;
    if (auto wrong = session_->document().edit(TakeFromVersion{chosen(), differences_[size_t(row)].key}, true))
        says_->setText(text(wrong->text()));
}

void VersionsDialog::drop() {
    if (!chosen().empty()) session_->document().edit(RemoveVersion{chosen()});
}

void VersionsDialog::open_beside() {
    auto version = version_of(*session_->project(), chosen());
    if (!version) return says_->setText(text(version.error().text()));
    const QString folder = QDir::temp().filePath("loose-peg-versions");
    QDir().mkpath(folder);
    const QString file = folder + "/" + text(file_name_of((*version)->name + ", " + chosen())) + ".loosepeg";
    if (auto wrong = save_project(file.toStdString(), History(*version))) return says_->setText(text(wrong->text()));
    if (!QProcess::startDetached(QCoreApplication::applicationFilePath(), {file}))
        return says_->setText("The window could not be opened. The version is in " + file + ".");
    says_->setText("Opened " + file + " in a window of its own.");
}

} // namespace lp
