#include "app/compare/round_trip_spot.h"

#include "app/document/renderer.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "quality/round_trip.h"

namespace fexel {
namespace {

constexpr int spot_side = 84;
constexpr int times = 4;

}  // namespace

RoundTripSpot::RoundTripSpot(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  button_ = new QPushButton(tr("Look at the middle of the view"));
  button_->setAccessibleName(tr("Show what detail was lost in the middle of the view"));
  column->addWidget(button_);
  auto* row = new QGridLayout;
  row->setHorizontalSpacing(6);
  const QString words[] = {tr("source"), tr("there and back"), tr("difference ×%1").arg(times)};
  for (int i = 0; i < 3; ++i) {
    pictures_[i] = new QLabel;
    pictures_[i]->setFixedSize(spot_side, spot_side);
    pictures_[i]->setAccessibleName(words[i]);
    names_[i] = new QLabel(words[i]);
    names_[i]->setFont(text_font(8));
    row->addWidget(pictures_[i], 0, i);
    row->addWidget(names_[i], 1, i);
  }
  column->addLayout(row);
  said_ = fields::sentence(tr("What detail was lost"));
  column->addWidget(said_);
  connect(button_, &QPushButton::clicked, this, &RoundTripSpot::look);
  connect(&document_, &Document::changed, this, &RoundTripSpot::forget);
  forget();
}

QString RoundTripSpot::said() const {
  return said_->text();
}

void RoundTripSpot::forget() {
  background_.cancel();
  for (QLabel* label : pictures_) label->hide();
  for (QLabel* label : names_) label->hide();
  fields::say(said_, {});
}

void RoundTripSpot::look() {
  const auto place = place_ ? place_() : std::nullopt;
  if (!place || !document_.source()) return;
  background_.start(
      {},
      [this, place, chain = document_.chain(), layout = document_.layout(),
       pixels = document_.source()->pixels](const Job& job) -> Background::Finish {
        auto loss = std::make_shared<std::optional<RoundTripError>>(
            round_trip_at(chain, layout, *pixels, *place, spot_side, job));
        return [this, loss, depth = pixels->base().depth(), top = pixels->base().largest()] {
          if (!*loss) {
            fields::say(said_, tr("Here the source, or the result, ends. Look somewhere else."));
            return;
          }
          const RoundTripError& l = **loss;
          const QImage before = to_screen(l.before), after = to_screen(l.after);
          const QImage shown[] = {before, after, enlarged_difference(before, after, times)};
          for (int i = 0; i < 3; ++i) {
            pictures_[i]->setPixmap(QPixmap::fromImage(shown[i]));
            pictures_[i]->show();
            names_[i]->show();
          }
          if (l.rms == 0) {
            fields::say(said_, tr("Nothing is lost here: taken to the result and back, every sample is the same."));
            return;
          }
          const QString full = depth == Depth::f32 ? QString() : tr(" of %1").arg(top);
          fields::say(said_, tr("Taken to the result and back, %1 % of the contrast here is left (RMS difference "
                                "%2%3). The result itself has lost about half of that.")
                                 .arg(number_shown(number_text(100 * l.kept, l.kept > 0.999 ? 2 : 1)),
                                      number_shown(short_number(l.rms, 2)), full));
        };
      },
      [this](const Error& error) {
        if (error.kind() != Error::Kind::cancelled) fields::say(said_, text_of(error), true);
      });
}

}  // namespace fexel
