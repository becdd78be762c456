#include "app/ui/theme.h"

#include <QApplication>
#include <QFile>
#include <QPainter>
#include <QPalette>
#include <QPixmapCache>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <utility>

/// The pictograms stand in a library, so they are registered by hand; the macro has to be called outside namespaces.
static void load_art() {
  Q_INIT_RESOURCE(art);
}

namespace fexel {
namespace {

const Theme light{QColor(0xF1EDE4), QColor(0xFAF8F3), QColor(0xFFFFFF), QColor(0x23282B),
                  QColor(0x5A625F), QColor(0xD8D2C5), QColor(0x0E6B68), QColor(0xDCEAE7),
                  QColor(0x3F4FA3), QColor(0xA3610F), QColor(0xA63A2B), QColor(0x4F7A3A)};
const Theme dark{QColor(0x24272A), QColor(0x2C3033), QColor(0x1E2123), QColor(0xE8E6E0),
                 QColor(0xA5ABA8), QColor(0x41464A), QColor(0x5DB5AE), QColor(0x23423F),
                 QColor(0x8C9AE6), QColor(0xE0A050), QColor(0xE07A66), QColor(0x8DBB70)};
const Theme* current = &light;

const char* sheet = R"(
QMainWindow, QMenuBar, QStatusBar { background: @paper; }
QMenuBar { border-bottom: 1px solid @line; padding: 1px 6px; }
QMenuBar::item { padding: 3px 10px; border-radius: 3px; }
QMenuBar::item:selected, QMenu::item:selected { background: @tealsoft; color: @ink; }
QMenu { background: @panel; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 4px 28px 4px 14px; border-radius: 3px; }
QMenu::item:disabled { color: @soft; }
QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
QStatusBar { border-top: 1px solid @line; color: @soft; }
QStatusBar::item { border: none; }
QToolTip { background: @panel; color: @ink; border: 1px solid @line; padding: 3px; }
QPushButton { background: @field; border: 1px solid @line; border-radius: 4px; padding: 3px 12px; min-height: 18px; }
QPushButton:hover { border-color: @teal; }
QPushButton:focus { border: 1px solid @teal; }
QPushButton:checked { background: @tealsoft; border-color: @teal; color: @teal; }
QPushButton:disabled { color: @soft; background: @panel; }
QPushButton[primary="true"] { background: @teal; color: @panel; border-color: @teal; font-weight: 600; }
QPushButton[primary="true"]:disabled { background: @line; color: @soft; border-color: @line; }
QPushButton[flatword="true"] { background: transparent; border: 1px solid transparent; color: @teal; padding: 1px 6px; }
QPushButton[flatword="true"]:hover, QPushButton[flatword="true"]:focus { border-color: @teal; }
QPushButton[mode="true"] { background: transparent; border: 1px solid transparent; padding: 2px 12px; }
QPushButton[mode="true"]:checked { background: @tealsoft; font-weight: 400; }
QPushButton[mode="true"]:focus { border-color: @teal; }
QLineEdit, QDoubleSpinBox, QSpinBox, QComboBox { background: @field; border: 1px solid @line; border-radius: 3px; padding: 1px 5px;
  min-height: 19px; selection-background-color: @teal; selection-color: @panel; }
QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus, QComboBox:focus { border-color: @teal; }
QDoubleSpinBox:disabled, QComboBox:disabled { color: @soft; background: @panel; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(:/art/down.svg); width: 10px; height: 10px; }
QComboBox QAbstractItemView { background: @panel; selection-background-color: @tealsoft; selection-color: @ink; border: 1px solid @line; }
QTableView { background: @panel; border: none; gridline-color: @panel; selection-background-color: @tealsoft; selection-color: @ink; }
QTableView:focus { border: 1px solid @teal; }
QHeaderView::section { background: @panel; border: none; border-bottom: 1px solid @line; padding: 2px 6px; color: @soft; }
QScrollArea, QScrollArea > QWidget > QWidget { background: @panel; border: none; }
QScrollBar:vertical { background: transparent; width: 9px; }
QScrollBar::handle:vertical { background: @line; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QScrollBar:horizontal { background: transparent; height: 9px; }
QScrollBar::handle:horizontal { background: @line; border-radius: 4px; min-width: 24px; }
QProgressBar { background: @line; border: none; border-radius: 3px; max-height: 6px; min-width: 140px; }
QProgressBar::chunk { background: @teal; border-radius: 3px; }
QSplitter::handle { background: @line; }
)";

QString filled(QString text) {
  const auto put = [&](const char* name, const QColor& c) { text.replace(QLatin1String(name), c.name()); };
  put("@paper", current->paper);
  put("@panel", current->panel);
  put("@field", current->field);
  put("@tealsoft", current->teal_soft);
  put("@teal", current->teal);
  put("@ink", current->ink);
  put("@soft", current->soft_ink);
  put("@line", current->line);
  return text;
}

}  // namespace

const Theme& theme() {
  return *current;
}

PaperLook::PaperLook() : before_(std::exchange(current, &light)) {}

PaperLook::~PaperLook() {
  current = before_;
}

void apply_theme(QApplication& app, std::optional<bool> is_dark) {
  load_art();
  current = is_dark.value_or(app.palette().color(QPalette::Window).lightness() < 110) ? &dark : &light;
  app.setStyle(QStyleFactory::create("Fusion"));
  QPalette palette;
  palette.setColor(QPalette::Window, current->panel);
  palette.setColor(QPalette::WindowText, current->ink);
  palette.setColor(QPalette::Base, current->field);
  palette.setColor(QPalette::AlternateBase, current->panel);
  palette.setColor(QPalette::Text, current->ink);
  palette.setColor(QPalette::Button, current->panel);
  palette.setColor(QPalette::ButtonText, current->ink);
  palette.setColor(QPalette::Highlight, current->teal);
  palette.setColor(QPalette::HighlightedText, current->panel);
  palette.setColor(QPalette::PlaceholderText, current->soft_ink);
  palette.setColor(QPalette::ToolTipBase, current->panel);
  palette.setColor(QPalette::ToolTipText, current->ink);
  app.setPalette(palette);
  app.setFont(text_font());
  app.setStyleSheet(filled(QString::fromUtf8(sheet)));
}

QFont text_font(double points, bool strong) {
  QFont font = QFont();
  font.setPointSizeF(points);
  font.setWeight(strong ? QFont::DemiBold : QFont::Normal);
  return font;
}

QPixmap pictogram(const QString& name, int side, double ratio) {
  const QString key = QString("fexel/%1/%2/%3").arg(name).arg(side).arg(ratio);
  if (QPixmap kept; QPixmapCache::find(key, &kept)) return kept;
  QFile file(":/art/" + name + ".svg");
  if (!file.open(QIODevice::ReadOnly)) return {};
  QByteArray text = file.readAll();
  text.replace("#0E6B68", current->teal.name().toLatin1());
  text.replace("#DCEAE7", current->teal_soft.name().toLatin1());
  QSvgRenderer renderer(text);
  QPixmap out(QSize(side, side) * ratio);
  out.fill(Qt::transparent);
  QPainter painter(&out);
  renderer.render(&painter);
  painter.end();
  out.setDevicePixelRatio(ratio);
  QPixmapCache::insert(key, out);
  return out;
}

}  // namespace fexel
