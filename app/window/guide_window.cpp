#include "app/window/guide_window.h"

#include <QFile>
#include <QLineEdit>
#include <QListWidget>
#include <QRegularExpression>
#include <QScrollBar>
#include <QShortcut>
#include <QTextBlock>
#include <QTextBrowser>
#include <QUrl>

#include "app/ui/fields.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

/// The words of a page, and a part of the heading that its chapter begins with.
constexpr std::pair<const char*, const char*> chapters_of_pages[] = {
    {"source", "Give a picture its scale"},
    {"rectify", "rectify a photo"},
    {"result", "rectify a photo"},
    {"rotate", "level and crop a scan"},
    {"crop", "level and crop a scan"},
    {"mirror", "level and crop a scan"},
    {"tilt", "level and crop a scan"},
    {"resize", "make a picture a given size"},
    {"downsample", "make a picture a given size"},
    {"pad", "make a picture a given size"},
    {"unwrap", "unwrap a ring"},
    {"lens", "undo the distortion of a lens"},
    {"fit", "lay an old record on a plan"},
    {"align", "align a series"},
    {"bands", "filter a picture"},
    {"local-contrast", "filter a picture"},
    {"highpass", "filter a picture"},
    {"background", "filter a picture"},
    {"denoise", "filter a picture"},
    {"convolve", "filter a picture"},
    {"translate", "filter a picture"},
    {"matrix", "filter a picture"},
    {"motion", "how a surface deformed"},
    {"flow", "how a fluid flows"},
    {"runs", "forty photos"},
    {"film", "a film"},
    {"marks", "A scale bar for a paper"},
    {"frames", "one picture of many"},
};

/// The guide without pictures, which the program does not carry.
QString guide_text() {
  QFile file(QStringLiteral(":/guide/guide.md"));
  if (!file.open(QIODevice::ReadOnly)) return {};
  QString out;
  for (const QString& line : QString::fromUtf8(file.readAll()).split('\n'))
    if (!line.trimmed().startsWith("![")) out += line + '\n';
  return out;
}

bool is_heading(const QTextBlock& block) {
  return block.blockFormat().headingLevel() > 0;
}

}  // namespace

GuideWindow::GuideWindow(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Guide"));
  resize(940, 680);
  auto* rows = new QVBoxLayout(this);
  search_ = new QLineEdit;
  search_->setAccessibleName(tr("Search the guide"));
  search_->setPlaceholderText(tr("Search the guide; Return finds the next place"));
  search_->setClearButtonEnabled(true);
  rows->addWidget(search_);
  auto* split = new QSplitter;
  list_ = new QListWidget;
  list_->setAccessibleName(tr("Chapters"));
  list_->setWordWrap(true);
  page_ = new QTextBrowser;
  page_->setAccessibleName(tr("The guide"));
  page_->setOpenLinks(false);
  page_->document()->setDocumentMargin(18);
  page_->setMarkdown(guide_text());
  split->addWidget(list_);
  split->addWidget(page_);
  split->setSizes({260, 680});
  split->setStretchFactor(1, 1);
  rows->addWidget(split, 1);
  for (QTextBlock block = page_->document()->begin(); block.isValid(); block = block.next())
    if (is_heading(block)) {
      QString heading = block.text().remove(QStringLiteral("Guide: "));
      if (!heading.isEmpty()) heading[0] = heading[0].toUpper();
      auto* item = new QListWidgetItem(heading, list_);
      item->setData(Qt::UserRole, block.position());
      if (block.blockFormat().headingLevel() == 1) item->setFont(text_font(10, true));
    }
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) { show_chapter(row); });
  connect(search_, &QLineEdit::returnPressed, this, [this] { find(search_->text()); });
  connect(page_, &QTextBrowser::anchorClicked, this, [this](const QUrl& link) {
    // "#give-a-picture-its-scale": headings in small letters, apart by hyphens.
    for (int i = 0; i < list_->count(); ++i) {
      QString name = list_->item(i)->text().toLower().replace(' ', '-');
      name.remove(QRegularExpression("[^a-z0-9-]"));
      if (link.fragment().endsWith(name)) return list_->setCurrentRow(i);
    }
  });
  new QShortcut(QKeySequence::Find, this, [this] {
    search_->setFocus();
    search_->selectAll();
  });
}

void GuideWindow::show_chapter(int index) {
  if (index < 0) return;
  QTextCursor cursor(page_->document());
  cursor.setPosition(page_->document()->characterCount() - 1);
  page_->setTextCursor(cursor);  // from below, so that the heading comes to stand above
  cursor.setPosition(list_->item(index)->data(Qt::UserRole).toInt());
  page_->setTextCursor(cursor);
  const QRect at = page_->cursorRect(cursor);
  page_->verticalScrollBar()->setValue(page_->verticalScrollBar()->value() + at.top() - 8);
}

void GuideWindow::show_chapter_of(const QString& word) {
  QString wanted;
  for (const auto& [page, heading] : chapters_of_pages)
    if (word == QLatin1String(page)) wanted = QString::fromLatin1(heading);
  int row = 0;
  for (int i = 0; i < list_->count() && !wanted.isEmpty(); ++i)
    if (list_->item(i)->text().startsWith(wanted, Qt::CaseInsensitive)) row = i;
  // Twice the same chapter is shown again, too.
  list_->setCurrentRow(-1);
  list_->setCurrentRow(row);
}

void GuideWindow::find(const QString& text) {
  if (text.isEmpty()) return;
  if (page_->find(text)) return;
  page_->moveCursor(QTextCursor::Start);
  const bool found = page_->find(text);
  search_->setToolTip(found ? QString() : tr("The guide does not say that."));
  if (!found) QToolTip::showText(search_->mapToGlobal(QPoint(0, search_->height())), search_->toolTip(), search_);
}

QString GuideWindow::chapter() const {
  return list_->currentItem() ? list_->currentItem()->text() : QString();
}

QStringList GuideWindow::chapters() const {
  QStringList out;
  for (int i = 0; i < list_->count(); ++i) out << list_->item(i)->text();
  return out;
}

}  // namespace fexel
