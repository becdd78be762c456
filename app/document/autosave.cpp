#include "app/document/autosave.h"

#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QUuid>

#include "app/ui/text.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int soon_ms = 1000;

std::unique_ptr<QLockFile> lock_of(const QString& file) {
  auto lock = std::make_unique<QLockFile>(file + ".lock");
  lock->setStaleLockTime(0);  // however old, it holds while its program runs
  return lock;
}

Unsaved read_unsaved(const QString& file) {
  const Json value = parse_json(read_text(file.toStdString()));
  const JsonReader in(value, "", {"fexel_unsaved", "chain_path", "chain"});
  in.whole("fexel_unsaved", 1, 1);
  return {file, text_of(in.text("chain_path")), parse_chain(to_text(in.at("chain")))};
}

}  // namespace

Autosave::Autosave(Document& document, const QString& folder, QObject* parent)
    : QObject(parent), document_(document), folder_(folder) {
  QDir().mkpath(folder_);
  path_ = folder_ + "/" + QUuid::createUuid().toString(QUuid::WithoutBraces) + ".unsaved.json";
  lock_ = lock_of(path_);
  lock_->tryLock(0);
  soon_.setSingleShot(true);
  soon_.setInterval(soon_ms);
  connect(&soon_, &QTimer::timeout, this, &Autosave::keep);
  const auto changed = [this] {
    if (!soon_.isActive()) soon_.start();
  };
  connect(&document_, &Document::changed, this, changed);
  connect(&document_.undo_stack(), &QUndoStack::cleanChanged, this, changed);
  thread_ = std::jthread([this](std::stop_token stop) { run(stop); });
}

Autosave::~Autosave() {
  thread_.request_stop();
  wake_.notify_all();
  thread_.join();
  if (document_.clean()) QFile::remove(path_);
}

void Autosave::keep() {
  Order order;
  if (!document_.clean() && document_.source()) {
    Chain chain = document_.chain();
    const std::vector<SourceReference> named = std::exchange(chain.sources, {});
    for (const FrameFile& frame : document_.frames()) {
      const std::string path = std::filesystem::absolute(frame.path).string();
      if (chain.sources.empty() || chain.sources.back().path != path) chain.sources.push_back({path, {}});
    }
    for (std::size_t i = 0; named.size() == chain.sources.size() && i < named.size(); ++i)
      chain.sources[i].skip = named[i].skip;
    if (chain.sources.empty())
      chain.sources = {{std::filesystem::absolute(document_.source()->path.toStdString()).string(), {}}};
    for (SourceReference& named_again : chain.sources) named_again.alpha_band = document_.source()->alpha_band;
    Json value;
    value["fexel_unsaved"] = 1;
    value["chain_path"] = document_.chain_path().toStdString();
    value["chain"] = parse_json(write_chain(chain));
    order.text = to_text(value, 2) + "\n";
  }
  order.outdated = outdated_;
  outdated_.clear();
  {
    const std::scoped_lock lock(mutex_);
    if (next_ && order.outdated.isEmpty()) order.outdated = next_->outdated;
    next_ = std::move(order);
  }
  wake_.notify_all();
}

void Autosave::forget() {
  soon_.stop();
  {
    const std::scoped_lock lock(mutex_);
    next_ = Order{};
  }
  wake_.notify_all();
}

void Autosave::take_over(const Unsaved& work) {
  outdated_ = work.file;
  soon_.start();
}

std::optional<Unsaved> Autosave::left_behind() const {
  // Newest first.
  for (const QFileInfo& info : QDir(folder_).entryInfoList({"*.unsaved.json"}, QDir::Files, QDir::Time)) {
    const QString file = info.absoluteFilePath();
    if (file == QFileInfo(path_).absoluteFilePath()) continue;
    const auto lock = lock_of(file);
    if (!lock->tryLock(0)) continue;
    try {
      return read_unsaved(file);
    } catch (const Error&) {
      QFile::rename(file, file + ".broken");  // kept for a look, and not offered again
    }
  }
  return std::nullopt;
}

void Autosave::run(const std::stop_token& stop) {
  while (true) {
    Order order;
    {
      std::unique_lock lock(mutex_);
      if (!wake_.wait(lock, stop, [this] { return next_.has_value(); })) return;
      order = std::move(*next_);
      next_.reset();
    }
    try {
      if (order.text.empty())
        QFile::remove(path_);
      else
        write_text(path_.toStdString(), order.text, true);
      if (!order.outdated.isEmpty()) QFile::remove(order.outdated);
    } catch (const Error&) {
      // A full disk is reported where the person saves; the next change tries again.
    }
  }
}

}  // namespace fexel
