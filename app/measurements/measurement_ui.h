#pragma once
/// What the window knows of each kind of measurement: titles, hint, key, and how it is drawn. The rest of the window
/// asks this registry and names no kind. A new kind is a file in this folder and a line in measurement_ui.cpp.
#include <QColor>
#include <QKeySequence>
#include <QLineF>
#include <QPolygonF>
#include <QString>
#include <vector>

#include "measurements/measurements.h"
#include "quality/uncertainty.h"

class QPainter;

namespace fexel {

class Document;

class MeasurementUi {
 public:
  struct Texts {
    QString title;   ///< "Length"
    QString action;  ///< in the menu
    QString hint;    ///< what to do on the picture
    QString name;    ///< of a new one, with %1 for its number
  };
  MeasurementUi(Texts texts, const QKeySequence& key) : texts_(std::move(texts)), key_(key) {}
  MeasurementUi(const MeasurementUi&) = delete;
  MeasurementUi& operator=(const MeasurementUi&) = delete;
  virtual ~MeasurementUi() = default;

  virtual const char* word() const = 0;
  const Texts& texts() const { return texts_; }
  const QKeySequence& key() const { return key_; }
  /// The name of its drawing in app/ui/art.
  QString pictogram() const { return QString::fromUtf8(word()); }
  /// A new one for this document.
  virtual MeasurementKind begun(const Document& document) const = 0;
  /// Draws it; points are in px of the widget.
  virtual void paint(QPainter& painter, const QPolygonF& points, const QColor& colour) const = 0;
  /// The line beside which its value stands.
  virtual QLineF label_line(const QPolygonF& points) const { return {points.front(), points.back()}; }

 private:
  Texts texts_;
  QKeySequence key_;
};

/// What a kind says by its type alone.
template <class Kind>
class MeasurementUiOf : public MeasurementUi {
 public:
  using MeasurementUi::MeasurementUi;
  const char* word() const final { return Kind::word; }
  MeasurementKind begun(const Document&) const override { return Kind(); }
};

/// All kinds in the order of the menu.
const std::vector<const MeasurementUi*>& measurement_uis();
const MeasurementUi& ui_of_measurement(const std::string& word);
const MeasurementUi& ui_of(const MeasurementKind& kind);

}  // namespace fexel
