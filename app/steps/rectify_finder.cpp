#include "app/steps/rectify_finder.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "chain/edit.h"

namespace fexel {
namespace {

/// A rectangle of a picture in the coordinates that the step gets; nothing where it is none there.
std::optional<Proposal> carried(Proposal proposal, const Map& map) {
  const auto scale = map.scale_at(proposal.corners[0]);
  for (Point& p : proposal.corners) {
    const auto at = map.forward(p);
    if (!at || !scale) return std::nullopt;
    p = {std::round(10 * at->x) / 10, std::round(10 * at->y) / 10};
  }
  proposal.sigma = std::max(picking_by_hand, rounded_to(proposal.sigma * *scale, 2));
  proposal.corners = in_order(proposal.corners);
  return check_quad(proposal.corners) ? std::nullopt : std::optional(proposal);
}

}  // namespace

RectifyFinder::RectifyFinder(Document& document, Take take) : document_(document), take_(std::move(take)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  propose_ = new QPushButton(tr("Propose a rectangle"));
  propose_->setAccessibleName(propose_->text());
  propose_->setToolTip(tr("Look for the rectangle that stands out most"));
  connect(propose_, &QPushButton::clicked, this, [this] { propose(false); });
  column->addWidget(propose_);
  edges_ = new QPushButton(tr("Corners from edges"));
  edges_->setAccessibleName(edges_->text());
  edges_->setToolTip(tr("Fit a line along each side, and take the corners where they meet"));
  connect(edges_, &QPushButton::clicked, this, [this] { find_edges(); });
  column->addWidget(edges_);
  found_ = fields::reserved(fields::sentence(tr("What the edges say")), 3);
  column->addWidget(found_);
  lens_ = new QPushButton(tr("Undo the lens"));
  lens_->setAccessibleName(lens_->text());
  lens_->setToolTip(tr("Put a lens step before this one that straightens the sides"));
  connect(lens_, &QPushButton::clicked, this, [this] { undo_lens(); });
  column->addWidget(lens_);
}

const RectifyStep* RectifyFinder::step() const {
  const int index = document_.selected_step();
  return index < 0 ? nullptr : std::get_if<RectifyStep>(&document_.chain().steps[static_cast<std::size_t>(index)].kind);
}

void RectifyFinder::refresh(const RectifyStep& rectify) {
  edges_->setEnabled(!check_quad(rectify.corners) && !search_.running());
  propose_->setEnabled(!search_.running());
  show_found(rectify);
}

/// Which of the proposals the corners are now, from 0; nothing when they are none.
std::optional<std::size_t> RectifyFinder::shown_proposal() const {
  const auto* now = step();
  const auto at = now ? std::ranges::find(proposals_, now->corners, &Proposal::corners) : proposals_.end();
  return at == proposals_.end() ? std::nullopt : std::optional(static_cast<std::size_t>(at - proposals_.begin()));
}

/// The first proposal, or the one behind that which is shown; after the last the first again.
void RectifyFinder::take_proposal(const QString& merge) {
  const auto shown = shown_proposal();
  const std::size_t next_one = shown ? (*shown + 1) % proposals_.size() : 0;
  RectifyStep next = *step();
  next.corners = proposals_[next_one].corners;
  next.picking = each_corner(proposals_[next_one].sigma);  // until edges or a hand say better
  take_(tr("propose a rectangle"), next, merge);
  fields::say(found_, tr("Proposed: rectangle %1 of %2, the most distinct first. Propose again for the next, or drag "
                         "the corners; then take them from edges.")
                          .arg(next_one + 1)
                          .arg(proposals_.size()));
}

/// Looks for a rectangle beside the window. By itself it says nothing where there is none, and what it finds belongs
/// to the step's adding; it is taken if the corners are still those it began with.
void RectifyFinder::propose(bool by_itself) {
  const auto* rectify = step();
  if (!rectify || !document_.source() || search_.running()) return;
  const int index = document_.selected_step();
  const int run = document_.layout().stations[static_cast<std::size_t>(index)].run_start;
  const Map from_run = map_between(document_.layout(), run, index);
  const bool same = proposals_of_.lock() == document_.source()->pixels && proposals_from_ == from_run;
  if (same && shown_proposal()) return take_proposal({});
  proposals_.clear();
  proposals_of_ = document_.source()->pixels;
  proposals_from_ = from_run;
  propose_->setEnabled(false);
  search_.start(
      tr("Looking for a rectangle"),
      [this, by_itself, before = rectify->corners, run, from_picture = from_run, pixels = document_.source()->pixels,
       pictures = document_.pictures()](const Job& job) -> Background::Finish {
        const auto picture = pictures ? pictures->at(run, job) : pixels;
        std::vector<Proposal> found;
        for (const Proposal& proposal : propose_rectangles(*picture, job))
          if (const auto here = carried(proposal, from_picture)) found.push_back(*here);
        return [this, by_itself, before, found] {
          propose_->setEnabled(true);
          edges_->setEnabled(true);
          const auto* now = step();
          if (!now || now->corners != before) return;
          proposals_ = found;
          if (found.empty()) {
            if (!by_itself)
              fields::say(found_, tr("No rectangle stands out here. Drag the four corners onto one."), true);
            return;
          }
          take_proposal(by_itself ? Document::adding : QString());
        };
      },
      [this](const Error& error) {
        propose_->setEnabled(true);
        fields::say(found_, text_of(error.message() + " " + error.remedy()), true);
      });
}

/// Looks for the edges beside the window; what it finds is taken if the corners are still those it began with.
void RectifyFinder::find_edges() {
  const auto* rectify = step();
  if (!rectify || !document_.source()) return;
  const int index = document_.selected_step();
  const Layout& layout = document_.layout();
  const int run = layout.stations[static_cast<std::size_t>(index)].run_start;
  const Quad near = rectify->corners;
  const double reach = std::clamp(0.006 * std::max(layout.stations[static_cast<std::size_t>(index)].size.width,
                                                   layout.stations[static_cast<std::size_t>(index)].size.height),
                                  8.0, 40.0);
  edges_->setEnabled(false);
  search_.start(
      tr("Looking for edges"),
      // Only about the source's own middle does a lens bend.
      [this, near, known = rectify->picking, reach, run, exact = is_exact_station(layout, index),
       size = layout.stations[static_cast<std::size_t>(index)].size, to_picture = map_between(layout, index, run),
       pixels = document_.source()->pixels, pictures = document_.pictures()](const Job& job) -> Background::Finish {
        const auto picture = pictures ? pictures->at(run, job) : pixels;
        const EdgeCorners found = corners_from_edges({picture->base(), to_picture}, near, reach, known);
        const auto bowed = exact ? lens_of_bows(found, size) : std::nullopt;
        return [this, near, found, bowed] {
          edges_->setEnabled(true);
          const auto* now = step();
          if (!now || now->corners != near) return;
          last_found_ = found;
          bowed_ = bowed;
          RectifyStep next = *now;
          next.corners = found.corners;
          for (std::size_t i = 0; i < 4; ++i)
            if (!found.kept[i]) next.picking[i] = std::max(0.01, rounded_to(found.sigma[i], 2));
          take_(tr("corners from edges"), next, {});
        };
      },
      [this](const Error& error) {
        edges_->setEnabled(true);
        fields::say(found_, text_of(error.message() + " " + error.remedy()), true);
      });
}

/// A lens step is put before this one, and the corners go with the picture.
void RectifyFinder::undo_lens() {
  const auto* rectify = step();
  const int index = document_.selected_step();
  if (!rectify || !bowed_) return;
  LensStep lens;
  lens.terms.k1 = std::round(bowed_->k1 * 1e6) / 1e6;
  const StepInput input = input_of_step(document_.layout(), index);
  RectifyStep moved = *rectify;
  const Map straight = geometry_of(lens, input).map;
  for (Point& corner : moved.corners) {
    const auto at = straight.forward(corner);
    if (!at) return;
    corner = {std::round(at->x * 100) / 100, std::round(at->y * 100) / 100};
  }
  moved.picking = each_corner(picking_by_hand);
  DocumentState next = document_.state();
  next.chain.steps[static_cast<std::size_t>(index)].kind = moved;
  next.chain = with_step_inserted(next.chain, index, {lens, true, {}});
  for (int* tile : {&next.flag_a, &next.flag_b, &next.selected})
    if (*tile > index) ++*tile;
  last_found_.reset();
  document_.edit(tr("undo the lens"), std::move(next));
  find_edges();  // lines along bowed sides met a little beside the corners
}

void RectifyFinder::show_found(const RectifyStep& rectify) {
  const bool current = last_found_ && last_found_->corners == rectify.corners;
  lens_->setVisible(current && bowed_ && is_exact_station(document_.layout(), document_.selected_step()));
  if (bowed_)
    lens_->setText(tr("Undo the lens: bow %1 px to %2 px")
                       .arg(number_shown(number_text(bowed_->before, 1)), number_shown(number_text(bowed_->after, 1))));
  if (!current) {
    if (!shown_proposal())
      fields::say(found_, tr("Drag the corners on the picture, or take them from edges where the sides are straight."));
    return;
  }
  static const char* const names[] = {QT_TR_NOOP("top"), QT_TR_NOOP("right"), QT_TR_NOOP("bottom"), QT_TR_NOOP("left")};
  QStringList said{
      tr("From edges, the corners to ± %1 px.").arg(number_shown(short_number(std::ranges::max(rectify.picking), 2)))};
  double most = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    const EdgeLine& side = last_found_->sides[i];
    most = std::max(most, std::abs(side.bow) + 2 * side.bow_sigma);
    if (std::abs(side.bow) > 0.3 + 3 * side.bow_sigma)
      said << tr("The %1 side bows by %2 px: the lens, or the thing itself, is not straight.")
                  .arg(tr(names[i]), number_shown(number_text(std::abs(side.bow), 1)));
  }
  static const char* const corners[] = {QT_TR_NOOP("top left"), QT_TR_NOOP("top right"), QT_TR_NOOP("bottom right"),
                                        QT_TR_NOOP("bottom left")};
  for (std::size_t i = 0; i < 4; ++i)
    if (last_found_->kept[i])
      said << tr("The %1 corner stays: its edges say no more than ± %2 px was known of it.")
                  .arg(tr(corners[i]), number_shown(short_number(last_found_->sigma[i], 2)));
  if (said.size() == 1)
    said << tr("The sides are straight within %1 px.").arg(number_shown(number_text(std::max(most, 0.01), 2)));
  fields::say(found_, said.join(" "));
}

}  // namespace fexel
