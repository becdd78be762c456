/// The selected step: its lines and handles, on the station that it gets and before, or on its result and behind.
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/pairs/reference.h"
#include "app/steps/step_ui.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

class StepOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    const int step = document_.selected_step();
    if (step < 0) return;
    if (view_.reference()) return paint_on_reference(painter, step);
    const Layout& layout = document_.layout();
    const bool wrong = layout.stations[static_cast<std::size_t>(step) + 1].problem.has_value();
    const QColor colour = wrong ? drawing::colour_wrong : drawing::flag_colour(view_.is_b());
    const Map to_view = map_between(layout, before(step) ? step : step + 1, view_.station());
    for (const StepLine& line : figure(step).lines) {
      QPolygonF points;
      for (const Point p : line.points)
        if (const auto at = to_view.forward(p)) points << view_.to_widget(point_of(*at));
      if (points.size() < 2 || QLineF(points.front(), points.back()).length() < 1) continue;
      drawing::line(painter, points, colour, true, line.closed && points.size() == qsizetype(line.points.size()));
      if (line.arrow) drawing::arrow_head(painter, points[points.size() - 2], points.back(), colour);
    }
  }

  void add_handles(std::vector<Handle>& handles) const override {
    const int step = document_.selected_step();
    if (step < 0) return;
    if (const Snapshot* reference = view_.reference()) {
      const StepFigure& shown = figure(step);
      for (int i = 0; i < static_cast<int>(shown.handles.size()); ++i) {
        const StepHandle& handle = shown.handles[static_cast<std::size_t>(i)];
        handles.push_back({Handle::Kind::result, step, i, point_of(1 / reference->reference->scale * handle.at),
                           text_of(handle.name)});
      }
      return;
    }
    const bool on_input = before(step);
    const StepFigure& shown = figure(step);
    for (int i = 0; i < static_cast<int>(shown.handles.size()); ++i) {
      const StepHandle& handle = shown.handles[static_cast<std::size_t>(i)];
      if (const auto at = here(handle.at, on_input ? step : step + 1))
        handles.push_back({on_input ? Handle::Kind::step : Handle::Kind::result, step, i, *at, text_of(handle.name)});
    }
  }
  bool owns(const Handle& handle) const override { return handle.of_step(); }
  bool on_reference() const override { return true; }
  std::optional<Remark> remark() const override {
    const int step = document_.selected_step();
    if (step < 0 || (!view_.reference() && before(step))) return std::nullopt;
    const std::string& says = figure(step).says;
    if (says.empty()) return std::nullopt;
    return Remark{text_of(says), drawing::flag_colour(view_.is_b())};
  }
  void select(const Handle& handle) override {
    document_.session().select_pair(selected_fit(document_) ? handle.index : -1);
  }
  bool remove(const Handle& handle) override {
    Chain chain = document_.chain();
    StepKind& kind = chain.steps[static_cast<std::size_t>(handle.owner)].kind;
    const auto without = ui_of(kind).without_handle(kind, handle.index);
    if (!without) return false;
    kind = *without;
    document_.edit_chain(ui_of(kind).handle_purpose(handle.index), chain);
    return true;
  }

  void paint_handle(QPainter& painter, const Handle& handle, bool chosen, QPointF middle) const override {
    const bool is_pair = selected_fit(document_) && handle.index == document_.session().pair();
    drawing::handle(painter, view_.to_widget(handle.at), handle.name, drawing::flag_colour(view_.is_b()),
                    chosen || is_pair, middle);
  }

  void grab(const Handle& handle) override {
    grabbed_ = document_.chain().steps[static_cast<std::size_t>(handle.owner)].kind;
  }

  void move(const Handle& handle, QPointF to) override {
    Chain chain = document_.chain();
    StepKind& kind = chain.steps[static_cast<std::size_t>(handle.owner)].kind;
    const bool on_result = handle.kind == Handle::Kind::result;
    const int station = handle.owner + (on_result ? 1 : 0);
    const Snapshot* reference = view_.reference();
    const auto at = reference ? std::optional(reference->reference->scale * point_of(to)) : there(to, station);
    if (!at) return;
    const StepUi& ui = ui_of(kind);
    // A drag changes the step as it was when the drag began.
    if (view_.dragged_handle() && grabbed_ && grabbed_->index() == kind.index()) kind = *grabbed_;
    kind = on_result ? ui.with_result_handle_at(kind, handle.index, *at)
                     : ui.with_handle_at(kind, input_of_step(document_.layout(), handle.owner), handle.index, *at);
    if (!reference) kind = ui.with_picking(kind, handle.index, view_.placed_to(to, station));
    const QString merging = on_result ? "target%1/%2" : "handle%1/%2";
    document_.edit_chain(ui.handle_purpose(handle.index), chain, merging.arg(handle.owner).arg(handle.index));
  }

 private:
  bool before(int step) const { return view_.station() <= step; }
  /// On a reference lie the handles of the result.
  StepFigure made_on_reference(int step) const {
    const Layout& layout = document_.layout();
    const StepKind& kind = document_.chain().steps[static_cast<std::size_t>(step)].kind;
    const bool made = !layout.stations[static_cast<std::size_t>(step) + 1].problem;
    StepFigure out = ui_of(kind).result_figure(kind, made ? map_between(layout, step, step + 1) : Map());
    if (!made) out.lines.clear();
    return out;
  }
  void paint_on_reference(QPainter& painter, int step) {
    const double scale = view_.reference()->reference->scale;
    for (const StepLine& line : figure(step).lines) {
      QPolygonF points;
      for (const Point p : line.points) points << view_.to_widget(point_of(1 / scale * p));
      drawing::line(painter, points, drawing::flag_colour(view_.is_b()), true, line.closed);
      if (line.arrow && points.size() > 1)
        drawing::arrow_head(painter, points[points.size() - 2], points.back(), drawing::flag_colour(view_.is_b()));
    }
  }
  StepFigure made_on_picture(int step) const {
    const Layout& layout = document_.layout();
    const StepKind& kind = document_.chain().steps[static_cast<std::size_t>(step)].kind;
    const StepUi& ui = ui_of(kind);
    if (before(step)) return ui.figure(kind, input_of_step(layout, step));
    if (!layout.stations[static_cast<std::size_t>(step) + 1].problem)
      return ui.result_figure(kind, map_between(layout, step, step + 1));
    // Where it cannot be made, what it should make can still be moved.
    StepFigure wanted = ui.result_figure(kind, Map());
    wanted.lines.clear();
    return wanted;
  }
  /// The figure, made once for paint, remark and handles of one state.
  const StepFigure& figure(int step) const {
    const Of now{document_.revision(), step, before(step), view_.reference() != nullptr};
    if (!kept_of_ || !(*kept_of_ == now)) kept_ = now.on_reference ? made_on_reference(step) : made_on_picture(step);
    kept_of_ = now;
    return kept_;
  }

  struct Of {
    quint64 revision;
    int step;
    bool before, on_reference;
    bool operator==(const Of&) const = default;
  };
  mutable std::optional<Of> kept_of_;
  mutable StepFigure kept_;
  std::optional<StepKind> grabbed_;
};

}  // namespace

std::unique_ptr<Overlay> make_step_overlay(PictureView& view) {
  return std::make_unique<StepOverlay>(view);
}

}  // namespace fexel
