// Where a design begins: new coils of each kind, one from a brief, files, and finished coils to look at.
#include "brief/brief_sheet.h"
#include "craft/kind.h"
#include "stages/stage.h"
#include "toolkit/common.h"
#include "toolkit/link_button.h"
#include "toolkit/text.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace {

class StartStage : public QScrollArea {
 public:
  StartStage(Workspace& workspace, QWidget* parent) : QScrollArea(parent), workspace_(workspace) {
    setObjectName("start");
    setWidgetResizable(true);
    setFocusPolicy(Qt::NoFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* page = new QWidget(this);
    auto* columns = new QHBoxLayout(page);
    columns->setContentsMargins(space::large, space::medium, space::large, space::large);
    columns->setSpacing(2 * space::large);
    columns->addLayout(make_new(page), 3);
    columns->addLayout(make_files(page), 2);
    setWidget(page);
    connect(&workspace_, &Workspace::recent_changed, this, &StartStage::show_recent);
    show_recent();
  }

 private:
  using Want = Workspace::Want;

  static QLabel* heading(const QString& words, QWidget* page) {
    auto* label = make_text(words, page);
    label->setFont(type::font(type::heading, QFont::DemiBold));
    return label;
  }

  // Each kind with what it is for and what it takes.
  QLayout* make_new(QWidget* page) {
    auto* column = new QVBoxLayout;
    column->setSpacing(space::hair);
    column->addWidget(heading("A new coil", page));
    column->addWidget(
        caption_label("A whole coil that fits the mains at hand; put your own numbers in its place.", page));
    column->addSpacing(space::small);
    for (const arc::CoilKind* kind : arc::coil_kinds()) {
      auto* button = new QPushButton(text_of(kind->title), page);
      button->setObjectName("new " + text_of(kind->key));
      button->setMinimumWidth(190);
      connect(button, &QPushButton::clicked, this,
              [this, key = text_of(kind->key)] { workspace_.want(Want::fresh, key); });
      column->addWidget(button, 0, Qt::AlignLeft);
      for (const std::string_view words : {kind->purpose, kind->needs}) {
        auto* line = caption_label(text_of(words), page);
        line->setWordWrap(true);
        column->addWidget(line);
      }
      column->addSpacing(space::small);
    }
    column->addStretch();
    return column;
  }

  QLayout* make_files(QWidget* page) {
    auto* column = new QVBoxLayout;
    column->setSpacing(space::hair);
    column->addWidget(heading("From a brief", page));
    auto* told = caption_label("Say what you want and what you have, or a size: whole designs are proposed.", page);
    told->setWordWrap(true);
    column->addWidget(told);
    auto* brief = new QPushButton("Propose a coil…", page);
    brief->setObjectName("start brief");
    brief->setMinimumWidth(190);
    connect(brief, &QPushButton::clicked, this, [this] { show_brief_sheet(workspace_, window()); });
    column->addWidget(brief, 0, Qt::AlignLeft);
    column->addSpacing(space::large);
    column->addWidget(heading("Your files", page));
    column->addSpacing(space::hair);
    auto* open = new QPushButton("Open a file…", page);
    open->setObjectName("start open");
    open->setMinimumWidth(190);
    connect(open, &QPushButton::clicked, this, [this] { workspace_.want(Want::file, {}); });
    column->addWidget(open, 0, Qt::AlignLeft);
    recent_ = new QVBoxLayout;
    recent_->setSpacing(space::hair);
    column->addLayout(recent_);
    column->addSpacing(space::large);
    column->addWidget(heading("Finished coils to look at", page));
    auto* words = caption_label("Invented coils with their numbers, findings and a record of runs.", page);
    words->setWordWrap(true);
    column->addWidget(words);
    for (const arc::CoilKind* kind : arc::coil_kinds()) {
      if (kind->demo.empty()) continue;
      auto* demo = new LinkButton(workspace_, text_of(kind->title), page);
      demo->setObjectName("demo " + text_of(kind->key));
      connect(demo, &QAbstractButton::clicked, this,
              [this, key = text_of(kind->key)] { workspace_.want(Want::demo, key); });
      column->addWidget(demo);
    }
    column->addStretch();
    return column;
  }

  void show_recent() {
    while (QLayoutItem* item = recent_->takeAt(0)) {
      delete item->widget();
      delete item;
    }
    for (const QString& path : workspace_.recent_files()) {
      auto* link = new LinkButton(workspace_, QFileInfo(path).fileName(), widget());
      link->setObjectName("recent " + QFileInfo(path).fileName());
      link->setToolTip(path);
      connect(link, &QAbstractButton::clicked, this, [this, path] { workspace_.want(Want::file, path); });
      recent_->addWidget(link);
    }
    if (workspace_.recent_files().isEmpty())
      recent_->addWidget(caption_label("Files that you save or open are listed here.", widget()));
  }

  Workspace& workspace_;
  QVBoxLayout* recent_ = nullptr;
};

} // namespace

QWidget* make_start_stage(Workspace& workspace, QWidget* parent) {
  return new StartStage(workspace, parent);
}
