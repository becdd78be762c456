#include "app/document/document.h"

#include "app/document/marks_layer.h"
#include "app/document/motion_layer.h"
#include "app/document/pairs_review.h"
#include "app/steps/step_ui.h"
#include "app/ui/text.h"

#include "run/run.h"

#include <QUndoCommand>

#include "chain/edit.h"

namespace fexel {

class StateCommand : public QUndoCommand {
 public:
  StateCommand(Document& document, const QString& text, DocumentState before, DocumentState after, QString merge)
      : QUndoCommand(text),
        document_(document),
        before_(std::move(before)),
        after_(std::move(after)),
        merge_(std::move(merge)) {}
  void undo() override { document_.restore(before_); }
  void redo() override { document_.restore(after_); }
  int id() const override { return merge_.isEmpty() ? -1 : 1; }
  bool mergeWith(const QUndoCommand* other) override {
    const auto* next = static_cast<const StateCommand*>(other);
    if (next->merge_ != merge_) return false;
    after_ = next->after_;
    setObsolete(after_ == before_);
    return true;
  }

 private:
  Document& document_;
  DocumentState before_, after_;
  QString merge_;
};

Document::Document(QObject* parent) : QObject(parent) {
  undo_.setUndoLimit(2000);
  connect(&session_, &Session::selection_changed, this, [this] {
    end_merging();
    Q_EMIT selection_changed();
  });
  connect(&session_, &Session::dragging_changed, this, [this] { end_merging(); });
  layout_ = lay_out({}, {{1, 1}, 1, Depth::u8, {}});
  marks_layer_ = std::make_unique<MarksLayer>(*this);
  pairs_review_ = std::make_unique<PairsReview>(*this);
  motion_layer_ = std::make_unique<MotionLayer>(*this);
}

Document::~Document() = default;

SourceShape Document::shape() const {
  if (!source_) return {{1, 1}, 1, Depth::u8, {}};
  return {{source_->info.width, source_->info.height},
          source_->info.bands,
          source_->info.depth,
          source_->info.pixel_size,
          {},
          source_->frame};
}

const std::vector<FrameFile>& Document::frames() const {
  static const std::vector<FrameFile> none;
  return source_ ? source_->frames : none;
}

const AlignStep* Document::align_step() const {
  const auto at = align_step_of(state_.chain);
  return at ? &std::get<AlignStep>(state_.chain.steps[static_cast<std::size_t>(*at)].kind) : nullptr;
}

Motion Document::motion_of_frame(const FoundFrame& frame) const {
  const int at = align_step_of(state_.chain).value_or(0);
  return motion_of(frame.matrix, layout_.stations[static_cast<std::size_t>(at)].size);
}

void Document::show_frame(int index, FileInfo info, std::shared_ptr<const Pyramid> pixels) {
  if (!source_ || index < 0 || index >= static_cast<int>(source_->frames.size())) return;
  source_->frame = index;
  source_->info = std::move(info);
  source_->path = QString::fromStdString(source_->frames[static_cast<std::size_t>(index)].path.string());
  source_->pixels = std::move(pixels);
  pictures_.reset();  // what was made of the other frame is of no use
  lay_out_again();
  Q_EMIT changed();
}

int Document::selected_step() const {
  const int step = state_.selected - 1;
  return step >= 0 && step < static_cast<int>(state_.chain.steps.size()) ? step : -1;
}

void Document::set_chain_path(const QString& path) {
  chain_file_ = identity_of(std::filesystem::path(path.toStdString()));
  chain_path_ = path;
  undo_.setClean();
  Q_EMIT changed();
}

void Document::lay_out_again() {
  layout_ = lay_out(state_.chain, shape());
  if (source_ && layout_.result().run_start > 0)
    pictures_ = std::make_shared<const RunPictures>(source_->pixels, state_.chain, layout_, pictures_.get());
  else
    pictures_.reset();
  ++revision_;
  readings_.clear();
}

const std::vector<Reading>& Document::readings(int station) const {
  auto& list = readings_[station];
  if (list.size() != state_.chain.measurements.size()) {
    list.clear();
    for (const Measurement& measurement : state_.chain.measurements)
      list.push_back(read_at(state_.chain, shape(), layout_, measurement, station));
  }
  return list;
}

bool Document::chain_file_changed() const {
  const auto now = identity_of(std::filesystem::path(chain_path_.toStdString()));
  return !chain_path_.isEmpty() && now && now != chain_file_;
}

std::shared_ptr<const ProtectedPaths> Document::protected_paths() const {
  auto keep = std::make_shared<ProtectedPaths>();
  for (const FrameFile& frame : all_frames()) keep->add(frame.path, "a source");
  if (!chain_path_.isEmpty()) keep->add(chain_path_.toStdString(), "the chain");
  for (const auto& path : read_by(chain())) keep->add(path, "a reference of the chain");
  return keep;
}

std::vector<FrameFile> Document::all_frames() const {
  if (!source_) return {};
  if (!source_->frames.empty()) return source_->frames;
  FrameFile only;
  only.alpha_band = source_->alpha_band;
  only.path = source_->path.toStdString();
  only.info = source_->info;
  return {only};
}

std::vector<int> Document::unmatched_frames() const {
  const AlignStep* step = align_step();
  if (!step) return {};
  const std::vector<bool> out_of_it = left_out(chain(), frames());
  std::vector<int> out;
  for (std::size_t i = 0; i < std::min(step->frames.size(), out_of_it.size()); ++i)
    if (!out_of_it[i] && step->frames[i].status == MatchStatus::failed) out.push_back(static_cast<int>(i) + 1);
  return out;
}

int Document::frames_to_write() const {
  if (frames().empty()) return source_ ? 1 : 0;
  return static_cast<int>(std::ranges::count(left_out(chain(), frames()), false));
}

namespace {

/// The time from frame to frame of a film at a constant rate.
std::optional<TimeStep> step_of_film(const std::vector<FrameFile>& frames) {
  if (frames.size() < 2 || !frames.front().info || !frames.front().info->time || !frames.back().info ||
      !frames.back().info->time)
    return std::nullopt;
  const double step = *frames.back().info->time / static_cast<double>(frames.size() - 1);
  for (std::size_t i = 0; i < frames.size(); ++i)
    if (!frames[i].info || !frames[i].info->time ||
        std::abs(*frames[i].info->time - step * static_cast<double>(i)) > 0.6 * 1e-3 + 0.01 * step)
      return std::nullopt;
  return step > 0 ? std::optional(TimeStep{rounded_to(step, 6), "s"}) : std::nullopt;
}

}  // namespace

void Document::open(OpenSource source, Chain chain, const QString& chain_path) {
  source_ = std::move(source);
  if (!chain.time_step) chain.time_step = step_of_film(source_->frames);
  state_ = {};
  state_.chain = std::move(chain);
  state_.flag_b = tiles() - 1;
  for (std::size_t i = 0; i < state_.chain.steps.size(); ++i)
    if (state_.selected == 0) state_.selected = static_cast<int>(i) + 1;
  chain_path_ = chain_path;
  chain_file_ = identity_of(std::filesystem::path(chain_path_.toStdString()));
  session_.reset();
  undo_.clear();
  lay_out_again();
  Q_EMIT opened();
  Q_EMIT changed();
  Q_EMIT selection_changed();
}

void Document::take_over(const Document& other) {
  open(*other.source_, other.chain(), other.chain_path());
  restore(other.state_);
  motion_layer_->take_over(*other.motion_layer_);
}

void Document::edit(const QString& text, DocumentState next, const QString& merge) {
  if (next == state_) return;
  const QString key = merge.isEmpty() ? QString() : QString("%1#%2").arg(merge).arg(merge_generation_);
  undo_.push(new StateCommand(*this, text, state_, std::move(next), key));
}

void Document::edit_chain(const QString& text, const Chain& chain, const QString& merge) {
  DocumentState next = state_;
  next.chain = chain;
  edit(text, std::move(next), merge);
}

void Document::restore(const DocumentState& state) {
  const bool other_tiles = state.selected != state_.selected || state.chain.steps.size() != state_.chain.steps.size();
  state_ = state;
  session_.keep_within(static_cast<int>(state_.chain.measurements.size()), static_cast<int>(state_.chain.masks.size()),
                       static_cast<int>(state_.chain.marks.size()));
  lay_out_again();
  Q_EMIT changed();
  if (other_tiles) Q_EMIT selection_changed();
}

void Document::insert_step(const std::string& word, int index) {
  if (!source_) return;
  const Step step{step_begun(word, input_of_step(layout_, index)), true, {}};
  DocumentState next = state_;
  next.chain = with_step_inserted(state_.chain, index, step);
  const auto shifted = [&](int tile) { return tile > index ? tile + 1 : tile; };
  next.flag_a = shifted(state_.flag_a);
  next.flag_b = shifted(state_.flag_b);
  next.selected = index + 1;
  end_merging();
  edit(tr("add %1").arg(step_title(word).toLower()), std::move(next), adding);
}

void Document::remove_selected_step() {
  const int index = selected_step();
  if (index < 0) return;
  DocumentState next = state_;
  next.chain = with_step_removed(state_.chain, layout_, index);
  const auto shifted = [&](int tile) { return tile > index ? tile - 1 : tile; };
  next.flag_a = shifted(state_.flag_a);
  next.flag_b = std::max(shifted(state_.flag_b), state_.flag_b == tiles() - 1 ? tiles() - 2 : 0);
  next.selected = std::max(0, state_.selected - 1);
  edit(tr("remove %1").arg(called(state_.chain.steps[static_cast<std::size_t>(index)])), std::move(next));
}

void Document::move_selected_step(int by) {
  const int index = selected_step();
  if (index >= 0) move_step(index, index + by);
}

void Document::move_step(int from, int to) {
  const int steps = static_cast<int>(state_.chain.steps.size());
  if (from == to || from < 0 || from >= steps || to < 0 || to >= steps) return;
  DocumentState next = state_;
  const Step step = state_.chain.steps[static_cast<std::size_t>(from)];
  next.chain = with_step_inserted(with_step_removed(state_.chain, layout_, from), to, step);
  const auto moved = [&](int tile) {
    if (tile == from + 1) return to + 1;
    if (tile < 1 || tile > steps) return tile;
    const int closed = tile > from + 1 ? tile - 1 : tile;
    return closed >= to + 1 ? closed + 1 : closed;
  };
  next.flag_a = moved(state_.flag_a);
  next.flag_b = moved(state_.flag_b);
  next.selected = moved(state_.selected);
  edit(tr("move %1").arg(called(step)), std::move(next));
}

void Document::rename_step(int index, const QString& name) {
  if (index < 0 || index >= static_cast<int>(state_.chain.steps.size())) return;
  Chain chain = state_.chain;
  chain.steps[static_cast<std::size_t>(index)].name = name.trimmed().toStdString();
  edit_chain(tr("rename %1").arg(step_title(word_of(chain.steps[static_cast<std::size_t>(index)].kind)).toLower()),
             chain);
}

QString Document::step_text() const {
  const int index = selected_step();
  return index < 0 ? QString()
                   : QString::fromStdString(write_one_step(state_.chain.steps[static_cast<std::size_t>(index)]));
}

void Document::paste_steps(const QString& text) {
  if (!source_) return;
  const std::string given = text.trimmed().toStdString();
  const bool whole = given.find("\"fexel\"") != std::string::npos;
  const Chain pasted = parse_chain(whole ? given : "{\"fexel\":1,\"steps\":[" + given + "]}");
  if (pasted.steps.empty()) throw call_error("There is no step in what was copied.", {}, "Copy a step first.");
  DocumentState next = state_;
  int index = selected_step() < 0 ? (state_.selected == 0 ? 0 : static_cast<int>(state_.chain.steps.size()))
                                  : selected_step() + 1;
  for (const Step& step : pasted.steps) {
    next.chain = with_step_inserted(next.chain, index, step);
    const auto shifted = [&](int tile) { return tile > index ? tile + 1 : tile; };
    next.flag_a = shifted(next.flag_a);
    next.flag_b = shifted(next.flag_b);
    next.selected = ++index;
  }
  edit(tr("paste"), std::move(next));
}

void Document::add_measurement(const Measurement& measurement) {
  Chain next = state_.chain;
  next.measurements.push_back(measurement);
  edit_chain(tr("add %1").arg(text_of(word_of(measurement.kind))), next);
  session_.select_measurement(static_cast<int>(next.measurements.size()) - 1);
}

void Document::remove_measurement(int index) {
  remove_measurements({index});
}

void Document::remove_measurements(std::vector<int> rows) {
  std::ranges::sort(rows, std::greater());
  Chain next = state_.chain;
  QString word;
  int removed = 0;
  for (const int row : rows) {
    if (row < 0 || row >= static_cast<int>(next.measurements.size())) continue;
    word = text_of(word_of(next.measurements[static_cast<std::size_t>(row)].kind));
    next.measurements.erase(next.measurements.begin() + row);
    ++removed;
  }
  if (removed > 0)
    edit_chain(removed == 1 ? tr("remove %1").arg(word) : tr("remove %1 measurements").arg(removed), next);
}

void Document::change_mask(int index, const Mask& mask, const QString& merge) {
  if (index < 0 || index >= static_cast<int>(state_.chain.masks.size())) return;
  Chain next = state_.chain;
  next.masks[static_cast<std::size_t>(index)] = mask;
  if (!(next == state_.chain)) edit_chain(tr("change a mask"), next, merge);
}

void Document::remove_mask(int index) {
  if (index < 0 || index >= static_cast<int>(state_.chain.masks.size())) return;
  Chain next = state_.chain;
  next.masks.erase(next.masks.begin() + index);
  edit_chain(tr("remove a mask"), next);
}

void Document::add_mark(const Mark& mark) {
  Chain next = state_.chain;
  next.marks.push_back(mark);
  edit_chain(tr("add a mark"), next);
  session_.select_mark(static_cast<int>(next.marks.size()) - 1);
}

void Document::change_mark(int index, const Mark& mark, const QString& merge) {
  if (index < 0 || index >= static_cast<int>(state_.chain.marks.size())) return;
  Chain next = state_.chain;
  next.marks[static_cast<std::size_t>(index)] = mark;
  if (!(next == state_.chain)) edit_chain(tr("change a mark"), next, merge);
}

void Document::remove_mark(int index) {
  if (index < 0 || index >= static_cast<int>(state_.chain.marks.size())) return;
  Chain next = state_.chain;
  next.marks.erase(next.marks.begin() + index);
  edit_chain(tr("remove a mark"), next);
}

void Document::select_tile(int tile) {
  if (tile < 0 || tile >= tiles() || tile == state_.selected) return;
  state_.selected = tile;
  session_.show_motion_page(false);
  end_merging();
  Q_EMIT selection_changed();
}

void Document::set_flag(bool b, int tile) {
  DocumentState next = state_;
  (b ? next.flag_b : next.flag_a) = tile;
  edit(b ? tr("move flag B") : tr("move flag A"), std::move(next));
}

}  // namespace fexel
