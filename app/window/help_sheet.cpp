// Pages are the Markdown files of docs/, from the resources.
#include "window/help_sheet.h"

#include "toolkit/common.h"

#include <QAbstractTextDocumentLayout>
#include <QApplication>
#include <QDir>
#include <QFile>
#include <QHBoxLayout>
#include <QScrollBar>
#include <QShortcut>
#include <QTextBlock>
#include <QTextDocument>
#include <QVBoxLayout>

namespace {

const QString guide = "qrc:/help/guide.md";

// In the order in which a search goes through them: the guide, then all that ships with it.
const QStringList& pages() {
  static const QStringList all = [] {
    QStringList out{guide, "qrc:/help/file-format.md", "qrc:/help/errors.md"};
    for (const QString& method : QDir(":/help/methods").entryList({"*.md"}, QDir::Files, QDir::Name))
      out << "qrc:/help/methods/" + method;
    return out;
  }();
  return all;
}

} // namespace

HelpSheet::HelpSheet(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
  setObjectName("help sheet");
  setWindowTitle("Guide");
  setModal(false);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(space::medium, space::medium, space::medium, space::medium);
  auto* row = new QHBoxLayout;
  back_ = new QPushButton("Back", this);
  back_->setObjectName("help back");
  row->addWidget(back_);
  auto* home = new QPushButton("Guide", this);
  home->setObjectName("help home");
  row->addWidget(home);
  search_ = new QLineEdit(this);
  search_->setObjectName("help search");
  search_->setAccessibleName("Words to look for on all pages");
  search_->setPlaceholderText("look for … (Enter: next, Shift+Enter: the one before)");
  search_->setClearButtonEnabled(true);
  row->addWidget(search_, 1);
  found_ = caption_label({}, this);
  found_->setObjectName("help found");
  row->addWidget(found_);
  column->addLayout(row);
  auto* middle = new QHBoxLayout;
  headings_ = new QListWidget(this);
  headings_->setObjectName("help headings");
  headings_->setAccessibleName("Headings of this page");
  headings_->setFixedWidth(240);
  headings_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  middle->addWidget(headings_);
  text_ = new QTextBrowser(this);
  text_->setObjectName("help text");
  text_->setAccessibleName("The guide's text");
  text_->setOpenExternalLinks(false);
  text_->document()->setDefaultFont(type::font(type::body));
  middle->addWidget(text_, 1);
  column->addLayout(middle, 1);
  open_large(*this, {920, 640});
  connect(back_, &QPushButton::clicked, text_, &QTextBrowser::backward);
  connect(home, &QPushButton::clicked, this, [this] { show_at({}); });
  connect(text_, &QTextBrowser::backwardAvailable, back_, &QWidget::setEnabled);
  connect(text_, &QTextBrowser::sourceChanged, this, &HelpSheet::page_changed);
  connect(headings_, &QListWidget::currentRowChanged, this, &HelpSheet::go_to_heading);
  connect(search_, &QLineEdit::returnPressed, this,
          [this] { find(search_->text(), QApplication::keyboardModifiers() & Qt::ShiftModifier); });
  for (QPushButton* button : {back_, home}) button->setAutoDefault(false); // Enter belongs to the search
  back_->setEnabled(false);
  auto* look = new QShortcut(QKeySequence::Find, this);
  connect(look, &QShortcut::activated, search_, [this] {
    search_->setFocus();
    search_->selectAll();
  });
}

void HelpSheet::page_changed() {
  text_->document()->setDocumentMargin(space::medium);
  for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
    QTextBlockFormat air; // between paragraphs, and more above a heading
    air.setTopMargin(block.blockFormat().headingLevel() > 0 ? space::large : 0);
    air.setBottomMargin(space::small);
    QTextCursor(block).mergeBlockFormat(air);
  }
  headings_->blockSignals(true);
  headings_->clear();
  for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
    const int level = block.blockFormat().headingLevel();
    if (level == 0) continue;
    auto* item = new QListWidgetItem(QString(2 * (level - 1), ' ') + block.text(), headings_);
    item->setData(Qt::UserRole, block.position());
    item->setToolTip(block.text());
  }
  headings_->setCurrentRow(-1);
  headings_->blockSignals(false);
}

void HelpSheet::go_to_heading(int row) {
  const QListWidgetItem* item = headings_->item(row);
  if (!item) return;
  const QTextBlock block = text_->document()->findBlock(item->data(Qt::UserRole).toInt());
  text_->setTextCursor(QTextCursor(block));
  const QRectF place = text_->document()->documentLayout()->blockBoundingRect(block);
  text_->verticalScrollBar()->setValue(static_cast<int>(place.top()));
}

void HelpSheet::show_at(const QString& heading) {
  show();
  raise();
  activateWindow();
  if (text_->source() != QUrl(guide)) text_->setSource(QUrl(guide), QTextDocument::MarkdownResource);
  found_->clear();
  int row = 0;
  for (int i = 0; i < headings_->count() && !heading.isEmpty(); ++i)
    if (headings_->item(i)->text().trimmed().startsWith(heading)) {
      row = i;
      break;
    }
  headings_->setCurrentRow(-1);
  headings_->setCurrentRow(row);
  search_->setFocus();
}

bool HelpSheet::find(const QString& words, bool backwards) {
  found_->clear();
  if (words.trimmed().isEmpty()) return false;
  const auto flags = backwards ? QTextDocument::FindBackward : QTextDocument::FindFlags();
  if (text_->find(words, flags)) return true;
  const auto here = std::max<qsizetype>(0, pages().indexOf(text_->source().toString()));
  for (qsizetype i = 1; i <= pages().size(); ++i) {
    const qsizetype page = (here + (backwards ? pages().size() - i : i)) % pages().size();
    QFile file(pages()[page].mid(3)); // without "qrc"
    if (!file.open(QIODevice::ReadOnly)) continue;
    QTextDocument there;
    there.setMarkdown(QString::fromUtf8(file.readAll()));
    if (there.find(words).isNull()) continue;
    text_->setSource(QUrl(pages()[page]), QTextDocument::MarkdownResource);
    text_->moveCursor(backwards ? QTextCursor::End : QTextCursor::Start);
    return text_->find(words, flags);
  }
  found_->setText("not on any page");
  return false;
}
