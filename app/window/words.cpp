// One expression for all names, the longest first.
#include "window/words.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QFile>
#include <QHash>
#include <QHeaderView>
#include <QLabel>
#include <QRegularExpression>
#include <algorithm>

namespace {

QList<Term> read_terms() {
  QList<Term> out;
  QFile page(":/help/words.md");
  if (!page.open(QIODevice::ReadOnly)) return out;
  for (const QString& line : QString::fromUtf8(page.readAll()).split('\n')) {
    const QStringList cells = line.split('|');
    enum { term = 1, unit, what, others, count };
    if (cells.size() <= count || cells[term].trimmed() == "term" || cells[term].startsWith("---")) continue;
    Term one{cells[term].trimmed(), cells[unit].trimmed(), cells[what].trimmed(), {}};
    for (const QString& other : cells[others].split(',', Qt::SkipEmptyParts)) one.others << other.trimmed();
    out << one;
  }
  return out;
}

// Of each word in small letters: the place of its term. Own names go before what others say.
const QHash<QString, qsizetype>& places() {
  static const auto all = [] {
    QHash<QString, qsizetype> out;
    const auto& terms = vocabulary();
    for (qsizetype i = 0; i < terms.size(); ++i) out.insert(terms[i].term.toLower(), i);
    for (qsizetype i = 0; i < terms.size(); ++i)
      for (const QString& other : terms[i].others)
        if (!out.contains(other.toLower())) out.insert(other.toLower(), i);
    return out;
  }();
  return all;
}

// Any of them as a whole word, in the plural too. What is short stands for too much: only own names count then.
const QRegularExpression& any_term() {
  static const QRegularExpression all = [] {
    constexpr qsizetype shortest = 5;
    QStringList names;
    for (const auto& [name, place] : places().asKeyValueRange())
      if (name.size() >= shortest || name == vocabulary()[place].term.toLower())
        names << QRegularExpression::escape(name);
    std::ranges::sort(names, [](const QString& a, const QString& b) {
      return a.size() != b.size() ? a.size() > b.size() : a < b;
    });
    return QRegularExpression(R"((?<!\w)()" + names.join('|') + R"()(?:s|es)?(?!\w))",
                              QRegularExpression::CaseInsensitiveOption);
  }();
  return all;
}

} // namespace

const QList<Term>& vocabulary() {
  static const QList<Term> all = read_terms();
  return all;
}

const Term* term_called(const QString& word) {
  const auto place = places().constFind(word.trimmed().toLower());
  return place == places().constEnd() ? nullptr : &vocabulary()[*place];
}

QList<const Term*> terms_in(const QString& text, int most) {
  QList<const Term*> out;
  QStringList names;
  for (auto found = any_term().globalMatch(text); found.hasNext();) names << found.next().captured(1);
  std::ranges::stable_sort(names, std::ranges::greater{}, &QString::size);
  for (const QString& name : names)
    if (const Term* term = term_called(name); term && !out.contains(term) && out.size() < most) out << term;
  return out;
}

QString words_of(const QWidget& widget, const QPoint& at) {
  const QWidget* owner = widget.parentWidget();
  if (const auto* head = qobject_cast<const QHeaderView*>(owner); head && head->viewport() == &widget)
    return head->model()->headerData(head->logicalIndexAt(at), head->orientation()).toString();
  if (const auto* view = qobject_cast<const QAbstractItemView*>(owner); view && view->viewport() == &widget)
    return view->indexAt(at).data().toString();
  if (const auto* view = qobject_cast<const QAbstractItemView*>(&widget))
    return view->currentIndex().data().toString();
  if (const auto* label = qobject_cast<const QLabel*>(&widget)) return label->text();
  const auto* button = qobject_cast<const QAbstractButton*>(&widget);
  return (button ? button->text() + "\n" : QString()) + widget.accessibleName();
}

QString meanings_of(const QWidget& widget, const QPoint& at) {
  QStringList out;
  for (const Term* term : terms_in(words_of(widget, at)))
    out << term->term + (term->unit.isEmpty() ? "" : " (" + term->unit + ")") + ": " + term->what;
  return out.join("\n\n");
}
