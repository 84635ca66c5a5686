// Rows of tables and lists stand whole or not at all: the row that an edge would cut waits beyond it.
#pragma once

class QAbstractItemView;

/// Once for a view; it may be empty and hidden yet.
void show_whole_rows(QAbstractItemView* view);
