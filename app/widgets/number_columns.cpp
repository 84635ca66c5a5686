// Numbers at their decimal points; described in the header.
#include "widgets/number_columns.h"

#include <QApplication>
#include <QHeaderView>
#include <QPainter>
#include <QRegularExpression>
#include <QStyledItemDelegate>
#include <QTimer>
#include <algorithm>
#include <utility>
#include <vector>

namespace {

// From the decimal point on, or from where it would be.
qsizetype point_of(const QString& text) {
  static const QRegularExpression whole(R"(^[+\-−]?\d+)");
  const auto match = whole.match(text);
  return match.hasMatch() ? match.capturedEnd() : text.size();
}

class NumberColumns : public QStyledItemDelegate {
 public:
  explicit NumberColumns(QTableWidget* table) : QStyledItemDelegate(table), table_(table) {
    later_.setSingleShot(true);
    connect(&later_, &QTimer::timeout, this, &NumberColumns::settle);
    const auto changed = [this] { later_.start(0); };
    connect(table->model(), &QAbstractItemModel::dataChanged, this, changed);
    connect(table->model(), &QAbstractItemModel::rowsRemoved, this, changed);
    connect(table->model(), &QAbstractItemModel::columnsInserted, this, changed);
  }

  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const auto column = static_cast<std::size_t>(index.column());
    const QString text = index.data().toString();
    if (column >= tails_.size() || tails_[column] == 0 || !is_number_cell(text))
      return QStyledItemDelegate::paint(painter, option, index);
    QStyleOptionViewItem cell = option;
    initStyleOption(&cell, index);
    cell.text.clear();
    QStyle* style = cell.widget ? cell.widget->style() : QApplication::style();
    style->drawControl(QStyle::CE_ItemViewItem, &cell, painter, cell.widget);
    const QFontMetrics metrics(cell.font);
    const int head = metrics.horizontalAdvance(text.left(point_of(text)));
    QRect room = cell.rect.adjusted(margin, 0, -margin, 0);
    room.setLeft(std::max(room.left(), room.right() - tails_[column] - head + 1));
    painter->save();
    painter->setFont(cell.font);
    painter->setPen(
        cell.palette.color(cell.state & QStyle::State_Selected ? QPalette::HighlightedText : QPalette::Text));
    painter->drawText(room, Qt::AlignLeft | Qt::AlignVCenter | Qt::TextSingleLine,
                      metrics.elidedText(text, Qt::ElideRight, room.width()));
    painter->restore();
  }

  QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    QSize size = QStyledItemDelegate::sizeHint(option, index);
    const auto column = static_cast<std::size_t>(index.column());
    if (column < tails_.size() && tails_[column] > 0)
      size.setWidth(std::max(size.width(), heads_[column] + tails_[column] + 2 * margin));
    return size;
  }

 private:
  static constexpr int margin = 6;

  void settle() {
    const auto columns = static_cast<std::size_t>(table_->columnCount());
    tails_.assign(columns, 0);
    heads_.assign(columns, 0);
    for (std::size_t c = 0; c < columns; ++c) {
      bool numbers = false, words = false;
      for (int r = 0; r < table_->rowCount(); ++r) {
        const QTableWidgetItem* item = table_->item(r, static_cast<int>(c));
        const QString text = item ? item->text() : QString();
        if (text.isEmpty() || text == "–") continue;
        (is_number_cell(text) ? numbers : words) = true;
        const QFontMetrics metrics(item->data(Qt::FontRole).isValid() ? item->font() : table_->font());
        const qsizetype point = point_of(text);
        tails_[c] = std::max(tails_[c], metrics.horizontalAdvance(text.mid(point)) + 1);
        heads_[c] = std::max(heads_[c], metrics.horizontalAdvance(text.left(point)));
      }
      numbers = numbers && !words;
      if (!numbers) tails_[c] = 0;
      const Qt::Alignment side = (numbers ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter;
      if (auto* head = table_->horizontalHeaderItem(static_cast<int>(c));
          head && head->textAlignment() != int(side))
        head->setTextAlignment(side);
      for (int r = 0; r < table_->rowCount(); ++r) // dashes stand with the numbers
        if (auto* item = table_->item(r, static_cast<int>(c)); item && item->textAlignment() != int(side)) {
          const QSignalBlocker quiet(table_->model());
          item->setTextAlignment(side);
        }
    }
    table_->horizontalHeader()->headerDataChanged(Qt::Horizontal, 0, std::max(0, table_->columnCount() - 1));
    table_->viewport()->update();
  }

  QTableWidget* table_;
  QTimer later_;
  std::vector<int> tails_, heads_; // widest from the decimal point on, and before it; 0 in a column of words
};

} // namespace

bool is_number_cell(const QString& text) {
  static const QRegularExpression number(
      R"(^[+\-−]?\d+(\.\d+)?(e[+\-]?\d+)?( ?[^\s\d.,;:]{1,8})?( ?± ?\d+(\.\d+)?( ?[^\s\d]{1,6})?)?$)");
  return number.match(text).hasMatch();
}

void align_numbers(QTableWidget* table) {
  table->setItemDelegate(new NumberColumns(table));
}
