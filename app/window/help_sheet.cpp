// Pages are the Markdown files of docs/, from the resources.
#include "window/help_sheet.h"

#include "toolkit/common.h"
#include "toolkit/whole_rows.h"
#include "window/words.h"

#include <QAbstractTextDocumentLayout>
#include <QApplication>
#include <QDir>
#include <QFile>
#include <QHBoxLayout>
#include <QImage>
#include <QScrollBar>
#include <QShortcut>
#include <QTextBlock>
#include <QTextDocument>
#include <QVBoxLayout>

namespace {

const QString guide = "qrc:/help/guide.md", how_to = "qrc:/help/how-to.md", words_page = "qrc:/help/words.md";

// In the order in which a search goes through them: the guide, tasks, words, then all that ships with them.
const QStringList& pages() {
  static const QStringList all = [] {
    QStringList out{guide, how_to, words_page, "qrc:/help/file-format.md", "qrc:/help/errors.md"};
    for (const QString& method : QDir(":/help/methods").entryList({"*.md"}, QDir::Files, QDir::Name))
      out << "qrc:/help/methods/" + method;
    return out;
  }();
  return all;
}

QString text_of_page(const QString& page) {
  QFile file(page.mid(3)); // without "qrc"
  return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

// A page's text. A picture named "screenshots/tank.png#170,90,400,200" is that part of it (left, top, width,
// height): cut when the page is shown, so that pictures are refreshed in one place.
class GuideText : public QTextBrowser {
 public:
  using QTextBrowser::QTextBrowser;

 protected:
  QVariant loadResource(int type, const QUrl& name) override {
    const QStringList sides = name.fragment().split(',');
    constexpr int left = 0, top = 1, width = 2, height = 3, count = 4;
    if (type != QTextDocument::ImageResource || sides.size() != count)
      return QTextBrowser::loadResource(type, name);
    const QRect part(sides[left].toInt(), sides[top].toInt(), sides[width].toInt(), sides[height].toInt());
    const QImage whole(":" + source().resolved(name).path());
    if (!whole.rect().contains(part)) return {};
    const int room =
        document()->textWidth() > 0 ? static_cast<int>(document()->textWidth()) - 2 * space::large : part.width();
    const QImage cut = whole.copy(part);
    return room > 0 && room < cut.width() ? cut.scaledToWidth(room, Qt::SmoothTransformation) : cut;
  }
};

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
  const auto add_page = [&](const char* name, const char* words, const QString& page) {
    auto* button = new QPushButton(words, this);
    button->setObjectName(name);
    button->setAutoDefault(false); // Enter belongs to the search
    connect(button, &QPushButton::clicked, this, [this, page] { show_page(page); });
    row->addWidget(button);
  };
  add_page("help home", "Guide", guide);
  add_page("help tasks", "How do I", how_to);
  add_page("help words", "Words", words_page);
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
  show_whole_rows(headings_);
  headings_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  middle->addWidget(headings_);
  text_ = new GuideText(this);
  text_->setObjectName("help text");
  text_->setAccessibleName("The guide's text");
  text_->setOpenExternalLinks(false);
  text_->document()->setDefaultFont(type::font(type::body));
  middle->addWidget(text_, 1);
  column->addLayout(middle, 1);
  open_large(*this, {920, 640});
  connect(back_, &QPushButton::clicked, text_, &QTextBrowser::backward);
  connect(text_, &QTextBrowser::backwardAvailable, back_, &QWidget::setEnabled);
  connect(text_, &QTextBrowser::sourceChanged, this, &HelpSheet::page_changed);
  connect(&workspace_, &Workspace::theme_changed, this, &HelpSheet::page_changed); // the tables' lines
  connect(headings_, &QListWidget::currentRowChanged, this, &HelpSheet::go_to_heading);
  connect(search_, &QLineEdit::returnPressed, this,
          [this] { find(search_->text(), QApplication::keyboardModifiers() & Qt::ShiftModifier); });
  back_->setAutoDefault(false);
  back_->setEnabled(false);
  auto* look = new QShortcut(QKeySequence::Find, this);
  connect(look, &QShortcut::activated, search_, [this] {
    search_->setFocus();
    search_->selectAll();
  });
}

void HelpSheet::page_changed() {
  text_->document()->setDocumentMargin(space::medium);
  QTextCursor all(text_->document());
  all.beginEditBlock(); // laid out once
  for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
    QTextBlockFormat air; // between paragraphs, and more above a heading
    air.setTopMargin(block.blockFormat().headingLevel() > 0 ? space::large : 0);
    air.setBottomMargin(QTextCursor(block).currentTable() ? 0 : space::small);
    QTextCursor(block).mergeBlockFormat(air);
  }
  for (QTextFrame* frame : text_->document()->rootFrame()->childFrames())
    if (auto* table = qobject_cast<QTextTable*>(frame)) style_table(*table);
  all.endEditBlock();
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

// Hairlines; names narrow in front of what is said of them.
void HelpSheet::style_table(QTextTable& table) const {
  QTextTableFormat format = table.format();
  format.setBorder(1);
  format.setBorderBrush(workspace_.theme().hairline);
  format.setBorderStyle(QTextFrameFormat::BorderStyle_Solid);
  format.setBorderCollapse(true);
  format.setCellPadding(5);
  format.setCellSpacing(0);
  format.setBottomMargin(space::small);
  format.setWidth(QTextLength(QTextLength::PercentageLength, 98));
  if (table.columns() == 2)
    format.setColumnWidthConstraints(
        {QTextLength(QTextLength::PercentageLength, 25), QTextLength(QTextLength::PercentageLength, 75)});
  table.setFormat(format);
}

void HelpSheet::go_to_heading(int row) {
  const QListWidgetItem* item = headings_->item(row);
  if (!item) return;
  const QTextBlock block = text_->document()->findBlock(item->data(Qt::UserRole).toInt());
  text_->setTextCursor(QTextCursor(block));
  const QRectF place = text_->document()->documentLayout()->blockBoundingRect(block);
  text_->verticalScrollBar()->setValue(static_cast<int>(place.top()));
}

void HelpSheet::show_page(const QString& page) {
  if (text_->source() != QUrl(page)) text_->setSource(QUrl(page), QTextDocument::MarkdownResource);
  found_->clear();
}

// The row of a term on the page of words, chosen.
bool HelpSheet::show_term(const QString& term) {
  show_page(words_page);
  const QTextDocument& page = *text_->document();
  for (QTextCursor at = page.find(term); !at.isNull(); at = page.find(term, at)) {
    const QTextTable* table = at.currentTable();
    if (!table) continue;
    const QTextTableCell cell = table->cellAt(at);
    if (cell.column() != 0 || cell.firstCursorPosition().block().text() != term) continue;
    text_->setTextCursor(at);
    text_->ensureCursorVisible();
    return true;
  }
  return false;
}

void HelpSheet::show_at(const QString& heading) {
  show();
  raise();
  activateWindow();
  show_page(guide);
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

void HelpSheet::show_words(const QString& text) {
  show();
  raise();
  activateWindow();
  const auto terms = terms_in(text, 6);
  if (terms.isEmpty())
    show_page(words_page);
  else
    show_term(terms.front()->term);
  QStringList others;
  for (const Term* term : terms.mid(1)) others << term->term;
  found_->setText(others.isEmpty() ? QString() : "also: " + others.join(", "));
  search_->setFocus();
}

bool HelpSheet::find(const QString& words, bool backwards) {
  found_->clear();
  if (words.trimmed().isEmpty()) return false;
  // A word of the trade, whatever somebody calls it, is explained first; then come the places where it stands.
  const QString asked = words.trimmed().toLower();
  const bool is_new = asked != asked_;
  asked_ = asked;
  if (const Term* term = term_called(asked); is_new && !backwards && term) return show_term(term->term);
  const auto flags = backwards ? QTextDocument::FindBackward : QTextDocument::FindFlags();
  if (text_->find(words, flags)) return true;
  const auto here = std::max<qsizetype>(0, pages().indexOf(text_->source().toString()));
  for (qsizetype i = 1; i <= pages().size(); ++i) {
    const qsizetype page = (here + (backwards ? pages().size() - i : i)) % pages().size();
    QTextDocument there;
    there.setMarkdown(text_of_page(pages()[page]));
    if (there.find(words).isNull()) continue;
    text_->setSource(QUrl(pages()[page]), QTextDocument::MarkdownResource);
    text_->moveCursor(backwards ? QTextCursor::End : QTextCursor::Start);
    return text_->find(words, flags);
  }
  found_->setText("not on any page");
  return false;
}
