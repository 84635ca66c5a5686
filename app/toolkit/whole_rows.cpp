// A cover over each row that the view's edges cut. Scrolling goes by rows, but at its end the last one stands at
// the lower edge, and the first one seen may be cut.
#include "toolkit/whole_rows.h"

#include <QAbstractItemView>
#include <QEvent>

namespace {

class RowCovers : public QObject {
 public:
  explicit RowCovers(QAbstractItemView* view) : QObject(view), view_(*view), upper_(cover()), lower_(cover()) {
    view->viewport()->installEventFilter(this);
  }

 protected:
  // Whatever moves rows paints them.
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (event->type() == QEvent::Paint) place();
    return QObject::eventFilter(watched, event);
  }

 private:
  QWidget* cover() {
    auto* made = new QWidget(view_.viewport());
    made->setProperty("row_cover", true);
    made->setAttribute(Qt::WA_StyledBackground);
    made->hide();
    return made;
  }
  // A row that fills the view is shown as far as it goes.
  void place() {
    const QRect seen = view_.viewport()->rect();
    const auto row_at = [&](int y) { return view_.visualRect(view_.indexAt({seen.left() + 2, y})); };
    const QRect first = row_at(seen.top()), last = row_at(seen.bottom());
    const bool above = first.isValid() && first.top() < seen.top() && first.bottom() < seen.bottom();
    const bool below = last.isValid() && last.bottom() > seen.bottom() && last.top() > seen.top();
    if (above) upper_->setGeometry(0, 0, seen.width(), first.bottom() + 1);
    if (below) lower_->setGeometry(0, last.top(), seen.width(), seen.bottom() + 1 - last.top());
    upper_->setVisible(above);
    lower_->setVisible(below);
  }

  QAbstractItemView& view_;
  QWidget *upper_, *lower_;
};

} // namespace

void show_whole_rows(QAbstractItemView* view) {
  new RowCovers(view);
}
