// The words of the trade as the page of words explains them: found in any text of the window, told where the
// pointer rests, and opened by a key.
#pragma once

#include <QList>
#include <QString>
#include <QStringList>

class QPoint;
class QWidget;

struct Term {
  QString term, unit, what;
  QStringList others; // words that others use for it
};

/// All of them, in the order of the page.
const QList<Term>& vocabulary();
/// The one that has this name or is called so by others, whatever the case; null when there is none.
const Term* term_called(const QString& word);
/// Those that stand in the text, each once, longest names first; at most `most`.
QList<const Term*> terms_in(const QString& text, int most = 3);

/// The words that a control shows or is read aloud by; of a table those of the cell or head at this place.
QString words_of(const QWidget& widget, const QPoint& at);

/// What those words mean, for its tip; empty where none is a term.
QString meanings_of(const QWidget& widget, const QPoint& at);
