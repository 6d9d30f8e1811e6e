#include "app/panels/print_times.h"
#include "app/theme/theme.h"
#include "base/duration.h"
#include "base/quantity.h"
#include "base/text.h"
#include "layers/layer_plan.h"
#include <QDate>
#include <QHBoxLayout>
#include <QPushButton>

namespace lp {

QString print_times_words(const PrinterCard& card) {
    const TimeFactor found = time_factor(card.timed, plan_start_s);
    if (found.prints == 0) return {};
    QString words = QString("multiplied by %1, from %2")
                        .arg(QString::fromStdString(format_fixed(found.factor, 2)),
                             QString::fromStdString(counted(found.prints, "print", "prints")));
    return words + QString("; the furthest lies %1 % off").arg(std::lround(100 * found.off));
}

PrintTimes::PrintTimes(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    const PrinterCard& card = session->project()->printer;
    ValueRow row = make_value_row("A print took",
                                  "told and taken: 22 h, 29.4 h; one time alone: against what all of "
                                  "the project was told",
                                  this);
    row.field->set_value("add one", "");
    connect(row.field, &ValueField::submitted, this, &PrintTimes::enter);
    field_ = row.field;
    column->addWidget(row.row);
    for (size_t i = 0; i < card.timed.size(); ++i) add_line(i, column);
    column->addWidget(make_note(card.timed.empty()
                                    ? QString("Times are told by common practice: no print was timed yet.")
                                    : "Times told are " + print_times_words(card) + ".",
                                false, this));
}

void PrintTimes::add_line(size_t nth, QVBoxLayout* column) {
    const TimedPrint print = session_->project()->printer.timed[nth];
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 0, theme::margin, 0);
    auto* label = new QLabel(QString::fromStdString(print.what + ": told " + format_duration(print.told_s) + ", took " +
                                                    format_duration(print.took_s)),
                             row);
    label->setWordWrap(true);
    label->setToolTip("Entered on " + QString::fromStdString(print.date));
    auto* forget = new QPushButton("Forget", row);
    forget->setFlat(true);
    forget->setAccessibleName(QString("Forget the time of print %1").arg(nth + 1));
    connect(
        forget, &QPushButton::clicked, session_,
        [session = session_, print] {
            PrinterCard card = session->project()->printer;
            auto found = std::find(card.timed.begin(), card.timed.end(), print);
            if (found == card.timed.end()) return;
            card.timed.erase(found);
            Edit edit = SetPrinter{card};
            edit.sentence = "Forgot the time of a print";
            session->document().edit(edit);
        },
        Qt::QueuedConnection);
    box->addWidget(label, 1);
    box->addWidget(forget);
    column->addWidget(row);
}

void PrintTimes::enter(const QString& typed) {
    std::vector<double> seconds;
    for (const std::string& part : listed(typed.toStdString(), ',')) {
        const auto time = read_duration(part);
        if (!time) return field_->refuse(QString::fromStdString(time.error().text()));
        seconds.push_back(*time);
    }
    const auto* analysis = session_->results().analysis();
    TimedPrint print{session_->project()->name, QDate::currentDate().toString(Qt::ISODate).toStdString(), 0, 0};
    if (seconds.size() == 2) {
        print.told_s = seconds[0];
        print.took_s = seconds[1];
    } else if (seconds.size() == 1 && analysis && analysis->time_s > 0) {
        // What is told without the prints before: a factor is not multiplied onto itself.
        const double factor = time_factor(session_->project()->printer.timed, plan_start_s).factor;
        print.told_s = plan_start_s + std::max(0.0, analysis->time_s - plan_start_s) / factor;
        print.took_s = seconds[0];
    } else {
        return field_->refuse("Write what was told and what it took: 22 h, 29.4 h.");
    }
    if (auto wrong = check_timed(print)) return field_->refuse(QString::fromStdString(wrong->text()));
    field_->accept();
    PrinterCard card = session_->project()->printer;
    card.timed.push_back(print);
    Edit edit = SetPrinter{card};
    edit.sentence = "Entered what a print took";
    session_->document().edit(edit); // this is made anew by it, and says what the times are now
}

} // namespace lp
