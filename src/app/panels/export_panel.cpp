#include "app/panels/export_panel.h"
#include "app/papers.h"
#include "app/practice.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "project/hardware_list.h"
#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QPushButton>
#include <QRadioButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QStandardPaths>
#include <QTimer>

namespace lp {

constexpr const char* told_name = "practice print, told";

/// Scrolls to what was just added: when it has its place, and when the column below has grown.
static void show_soon(QWidget* added) {
    QScrollArea* area = nullptr;
    for (QWidget* w = added; w && !area; w = w->parentWidget()) area = qobject_cast<QScrollArea*>(w);
    if (!area) return;
    const auto show = [area, added] {
        QTimer::singleShot(0, added, [area, added] { area->ensureWidgetVisible(added); });
    };
    QObject::connect(area->verticalScrollBar(), &QScrollBar::rangeChanged, added, show);
    show();
}

ExportPanel::ExportPanel(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Export");
    for (const FileFormat& format : file_formats())
        if (format.chosen_at_first) formats_.insert(format.id);
    folder_ = QDir(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation)).filePath("Loose Peg");
    connect(&session->document(), &Document::project_changed, this, &ExportPanel::refresh);
    connect(&session->results(), &Results::analysed, this, &ExportPanel::refresh);
    connect(session, &Session::exported, this, &ExportPanel::refresh);
    connect(session, &Session::practised, this, [this] {
        refresh();
        if (auto* told = findChild<QLabel*>(told_name)) show_soon(told);
    });
    connect(&session->workspace(), &Workspace::active_part_changed, this, &ExportPanel::refresh);
    refresh();
}

void ExportPanel::set_folder(const QString& folder) {
    folder_ = folder;
    refresh();
}

void ExportPanel::export_now() {
    ExportOptions options;
    options.folder = folder_.toStdString();
    options.formats.assign(formats_.begin(), formats_.end());
    options.deflection_mm = deflection_mm_;
    if (with_sheet_) {
        auto sheet = sheet_to_make(*session_, paper_);
        if (!sheet) return session_->say(QString::fromStdString(sheet.error().text()), true);
        options.papers = {{sheet->file_name, sheet->make}};
    }
    if (options.formats.empty() && options.papers.empty())
        return session_->say("Choose at least one kind of file.", true);
    session_->export_files(options);
}

void ExportPanel::rebuild() {
    clear();
    body()->addWidget(make_heading("Files", "for the slicer", this));
    add_formats();
    ValueRow deflection =
        make_value_row("Largest chord error", "how far a flat facet may stand off a round face", this);
    bind_number(session_, deflection, deflection_mm_, QuantityKind::Length, deflection_formula_,
                [this](const std::string& typed) -> std::optional<Problem> {
                    auto value = typed_number(*session_, typed, QuantityKind::Length);
                    if (!value) return value.error();
                    if (*value < 0.001 || *value > 1)
                        return Problem{ProblemCode::Range, "That is outside what makes sense.", "Use 0.001 to 1 mm."};
                    deflection_mm_ = *value;
                    deflection_formula_ = is_plain_number(typed) ? std::string() : typed;
                    QTimer::singleShot(0, this, [this] { refresh(); });
                    return std::nullopt;
                });
    body()->addWidget(deflection.row);
    add_folder();
    button_ = add_button("Export and read back", "");
    button_->setProperty("primary", true);
    connect(button_, &QPushButton::clicked, this, &ExportPanel::export_now);
    add_read_back();
    add_estimate();
    add_pauses();
    add_hardware();
    add_sheet();
    add_drawing();
    add_practice();
    body()->addStretch();
}

QPushButton* ExportPanel::add_button(const QString& words, const QString& hint) {
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* button = new QPushButton(words, row);
    button->setToolTip(hint);
    box->addWidget(button);
    body()->addWidget(row);
    return button;
}

/// Where bought things are laid into parts that are being printed.
void ExportPanel::add_pauses() {
    const Analysis* analysis = session_->results().analysis();
    if (!analysis) return;
    std::vector<std::pair<QString, bool>> lines;
    for (const auto& part : analysis->parts)
        for (const PartPause& pause : part->pauses)
            if (PartPtr its = session_->project()->part(part->part))
                lines.push_back(
                    {as_shown(QString::fromStdString(its->name + ": " + pause.words())), pause.pause.sound});
    if (lines.empty()) return;
    body()->addWidget(make_heading("Stops in the print", QString::number(lines.size()), this));
    for (const auto& [words, sound] : lines) {
        if (!sound) {
            body()->addWidget(make_note(words, true, this));
            continue;
        }
        auto* line = new QLabel(words, this);
        line->setWordWrap(true);
        line->setContentsMargins(theme::margin, 1, theme::margin, 1);
        body()->addWidget(line);
    }
}

/// The page for the workshop.
void ExportPanel::add_sheet() {
    body()->addWidget(make_heading("Job sheet", "for the workshop", this));
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 1, theme::margin, 1);
    for (auto [paper, words] : {std::pair(Paper::A4, "A4"), std::pair(Paper::Letter, "Letter")}) {
        auto* choice = new QRadioButton(words, row);
        choice->setChecked(paper_ == paper);
        connect(choice, &QRadioButton::clicked, this, [this, paper = paper] { paper_ = paper; });
        box->addWidget(choice);
    }
    box->addStretch();
    body()->addWidget(row);
    sheet_ =
        add_button("Write the sheet as PDF",
                   "Pictures with sizes, parts, what to buy, fits, beds, stops and settings, into the folder above");
    connect(sheet_, &QPushButton::clicked, this,
            [this] { write_paper(*session_, sheet_to_make(*session_, paper_), folder_); });
    look_ = new QPushButton("Look at it", sheet_->parentWidget());
    look_->setAccessibleName("Look at the sheet");
    look_->setToolTip("Page under page, before it is written");
    sheet_->parentWidget()->layout()->addWidget(look_);
    connect(look_, &QPushButton::clicked, this,
            [this] { look_at_paper(*session_, sheet_to_make(*session_, paper_), folder_, window()); });
}

/// The active part with its sizes, for the bench and for measuring the print.
void ExportPanel::add_drawing() {
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    const bool can = part && !part->stand_in;
    body()->addWidget(make_heading("Drawing", "sizes, a cut, what to measure", this));
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 4, theme::margin, 4);
    drawing_ = new QPushButton(can ? "Draw " + QString::fromStdString(part->name) : QString("Draw"), row);
    drawing_->setToolTip("As PDF on the paper chosen above, into the folder above");
    auto* svg = new QPushButton("SVG", row);
    svg->setAccessibleName("Draw it as SVG");
    svg->setToolTip("The same lines as SVG, without the list of what to measure");
    for (auto [button, ending] : {std::pair(drawing_, "pdf"), std::pair(svg, "svg")}) {
        button->setEnabled(can);
        connect(button, &QPushButton::clicked, this, [this, ending = ending] {
            write_paper(*session_, drawing_to_make(*session_, paper_, ending), folder_);
        });
    }
    auto* look = new QPushButton("Look", row);
    look->setAccessibleName("Look at the drawing");
    look->setToolTip("The page, before it is written");
    look->setEnabled(can);
    connect(look, &QPushButton::clicked, this,
            [this] { look_at_paper(*session_, drawing_to_make(*session_, paper_, "pdf"), folder_, window()); });
    box->addWidget(drawing_, 1);
    box->addWidget(svg);
    box->addWidget(look);
    body()->addWidget(row);
}

/// The active part laid by a printer that is only worked out.
void ExportPanel::add_practice() {
    body()->addWidget(make_heading("Practice print", "nothing is spent", this));
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    const bool can = part && !part->stand_in;
    practice_ =
        add_button(can ? "Print " + QString::fromStdString(part->name) + " in practice" : QString("Print in practice"),
                   "What would come out of the printer, as a part beside the design");
    practice_->setEnabled(can);
    connect(practice_, &QPushButton::clicked, session_, [s = session_] { print_in_practice(*s); });
    const PracticeReport& report = session_->last_practice();
    if (report.part.empty()) return;
    for (const std::string& sentence : report.found) {
        auto* line = new QLabel(as_shown(QString::fromStdString(sentence)), this);
        line->setWordWrap(true);
        line->setContentsMargins(theme::margin, 1, theme::margin, 1);
        body()->addWidget(line);
        line->setObjectName(told_name);
    }
    body()->addWidget(make_heading("It assumes", "no print has proved it", this));
    for (const std::string& sentence : report.assumes)
        body()->addWidget(make_note(as_shown(QString::fromStdString(sentence)), false, this));
}

/// What is to be bought, where sentences name something.
void ExportPanel::add_hardware() {
    const Evaluation* evaluation = session_->results().evaluation();
    if (!evaluation) return;
    const auto list = hardware_list(*evaluation);
    if (list.empty()) return;
    body()->addWidget(make_heading("To buy", QString::number(list.size()), this));
    for (const HardwareCount& piece : list) {
        auto* line = new QLabel(QString("%1 × %2").arg(piece.count).arg(QString::fromStdString(piece.name)), this);
        line->setWordWrap(true);
        line->setContentsMargins(theme::margin, 1, theme::margin, 1);
        body()->addWidget(line);
    }
}

void ExportPanel::add_formats() {
    for (const FileFormat& format : file_formats()) {
        if (!format.write) continue;
        auto* row = new QWidget(this);
        auto* box = new QHBoxLayout(row);
        box->setContentsMargins(theme::margin, 1, theme::margin, 1);
        auto* mark = new QCheckBox(QString("%1: %2").arg(format.title, format.good_for), row);
        mark->setChecked(formats_.count(format.id) > 0);
        connect(mark, &QCheckBox::toggled, this, [this, id = std::string(format.id)](bool on) {
            if (on)
                formats_.insert(id);
            else
                formats_.erase(id);
        });
        box->addWidget(mark);
        body()->addWidget(row);
    }
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 1, theme::margin, 1);
    auto* sheet = new QCheckBox("Job sheet: the page for the workshop, as PDF", row);
    sheet->setToolTip("On the paper chosen below");
    sheet->setChecked(with_sheet_);
    connect(sheet, &QCheckBox::toggled, this, [this](bool on) { with_sheet_ = on; });
    box->addWidget(sheet);
    body()->addWidget(row);
}

void ExportPanel::add_folder() {
    auto* where = new QWidget(this);
    auto* box = new QHBoxLayout(where);
    box->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* folder = new ValueField(ValueField::Look::Reference, where);
    folder->set_label("Folder", "where the files go");
    QString shown = QFontMetrics(theme::words(13.5, QFont::Bold)).elidedText(folder_, Qt::ElideMiddle, 210);
    folder->set_value(shown, folder_);
    connect(folder, &ValueField::submitted, this, [this, folder](const QString& text) {
        folder->accept();
        QTimer::singleShot(0, this, [this, text] { set_folder(text.trimmed()); });
    });
    auto* choose = new QPushButton("Choose …", where);
    connect(choose, &QPushButton::clicked, this, [this] {
        QString dir = QFileDialog::getExistingDirectory(this, "Folder for the files", folder_);
        if (!dir.isEmpty()) set_folder(dir);
    });
    box->addWidget(new QLabel("Into", where));
    box->addWidget(folder, 1);
    box->addWidget(choose);
    body()->addWidget(where);
}

void ExportPanel::add_read_back() {
    if (session_->last_export().empty()) return;
    size_t same = 0;
    for (const ReadBack& back : session_->last_export()) same += back.same;
    body()->addWidget(
        make_heading("Read back", QString("%1 of %2 as meant").arg(same).arg(session_->last_export().size()), this));
    for (const ReadBack& back : session_->last_export()) {
        auto* line = new MarkRow(QString::fromStdString(back.name + " · " + back.file.extension().string().substr(1)),
                                 QString::fromStdString(back.says), this);
        line->set_mark(back.same ? theme::Outcome::Sound : theme::Outcome::Failed);
        body()->addWidget(line);
    }
}

/// What the price goes by: only where all parts are of one plastic is it one number.
static std::string price_words(const Project& project) {
    const bool one = std::none_of(project.parts.begin(), project.parts.end(),
                                  [](const PartPtr& part) { return part->material && !part->stand_in; });
    return one ? " at " + format_number(project.material.price_per_kg) + " a kg" : "";
}

void ExportPanel::add_estimate() {
    const Analysis* analysis = session_->results().analysis();
    body()->addWidget(make_heading("Estimate", "each, with supports", this));
    if (analysis)
        for (const auto& part : analysis->parts) {
            PartPtr its = session_->project()->part(part->part);
            if (!its || !part->plan) continue;
            auto* line = new QWidget(this);
            auto* line_box = new QHBoxLayout(line);
            line_box->setContentsMargins(theme::margin, 0, theme::margin, 0);
            auto* name = new QLabel(QString::fromStdString(its->name) +
                                        (its->quantity != 1 ? QString(" × %1").arg(its->quantity) : ""),
                                    line);
            auto* numbers = new QLabel(QString::fromStdString(format_duration(part->plan->time_s) + " · " +
                                                              format_number(part->plan->mass_g, 1) + " g"),
                                       line);
            numbers->setFont(theme::numbers(12.5));
            line->setFixedHeight(24);
            line_box->addWidget(name);
            line_box->addStretch();
            line_box->addWidget(numbers);
            body()->addWidget(line);
        }
    if (analysis && analysis->time_s > 0) {
        auto* sum =
            make_note(QString::fromStdString(
                          "Altogether about " + format_duration(analysis->time_s) + ", " +
                          format_number(analysis->mass_g, 1) + " g, " + format_number(analysis->filament_mm / 1000, 1) +
                          " m of " + material_words(*session_->project()) + ", " + format_fixed(analysis->price, 2) +
                          price_words(*session_->project()) + "; " + format_number(analysis->energy_kwh, 2) +
                          " kWh of power, " + format_fixed(analysis->energy_price, 2) + "."),
                      false, this);
        body()->addWidget(sum);
    }
}

} // namespace lp
