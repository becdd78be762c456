#pragma once
/// What the geometry did to detail at one spot: the source, the same taken to the result and back, and the difference.
#include <QWidget>
#include <functional>

#include "app/document/background.h"
#include "app/document/document.h"

class QLabel;
class QPushButton;

namespace fexel {

class RoundTripSpot : public QWidget {
  Q_OBJECT
 public:
  explicit RoundTripSpot(Document& document, QWidget* parent = nullptr);
  /// Says which place of the source is looked at.
  void set_place(std::function<std::optional<Point>()> place) { place_ = std::move(place); }
  QString said() const;

 private:
  void look();
  void forget();
  Document& document_;
  std::function<std::optional<Point>()> place_;
  QPushButton* button_;
  QLabel* pictures_[3];
  QLabel* names_[3];
  QLabel* said_;
  Background background_;
};

}  // namespace fexel
