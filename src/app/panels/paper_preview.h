// A paper as it will come out of the printer, page under page.
#pragma once
#include <QBuffer>
#include <QDialog>

class QPdfDocument;
class QPdfView;
class QPushButton;

namespace lp {

class PaperPreview : public QDialog {
    Q_OBJECT
  public:
    PaperPreview(const QByteArray& pdf, const QString& called, QWidget* parent);
    ~PaperPreview() override;
    QPdfView* pages() const { return view_; }
    QPushButton* write_button() const { return write_; }
    int page_count() const;

  signals:
    void write_wanted();

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void show_whole(bool whole); ///< a page at a time, or as wide as the window
    QBuffer bytes_;
    QPdfDocument* document_ = nullptr;
    QPdfView* view_ = nullptr;
    QPushButton *write_ = nullptr, *whole_ = nullptr;
};

} // namespace lp
