#include "app/pairs/reference.h"

#include <QFileInfo>

#include "app/ui/text.h"

namespace fexel {

std::optional<OpenReference> open_reference(const Document& document) {
  const FitStep* fit = selected_fit(document);
  if (!fit || !fit->reference || !document.source()) return std::nullopt;
  const Session::Reference* picture = document.session().reference(fit->reference->file);
  if (!picture) return std::nullopt;
  return OpenReference{document.selected_step(), fit, picture, reference_scale(*fit)};
}

void change_fit(Document& document, const QString& text, const FitStep& next, const QString& merge) {
  const int at = document.selected_step();
  Chain chain = document.chain();
  if (at < 0 || !std::holds_alternative<FitStep>(chain.steps[static_cast<std::size_t>(at)].kind)) return;
  chain.steps[static_cast<std::size_t>(at)].kind = next;
  document.edit_chain(text, chain, merge);
}

std::shared_ptr<const Snapshot> snapshot_of(const OpenReference& reference, bool in_b) {
  auto out = std::make_shared<Snapshot>();
  const Image& base = reference.picture->pixels->base();
  out->layout = lay_out(Chain{}, {{base.width(), base.height()}, base.bands(), base.depth(), reference.picture->pixel});
  out->source = reference.picture->pixels;
  out->name = QFileInfo(text_of(reference.picture->file)).fileName();
  out->reference = Snapshot::Reference{reference.step, reference.scale};
  out->in_b = in_b;
  out->range = reference.picture->range;
  return out;
}

std::filesystem::path reference_path(const Document& document, const std::string& file) {
  const std::filesystem::path path(file);
  if (path.is_absolute()) return path;
  const QString beside = !document.chain_path().isEmpty() ? document.chain_path()
                         : document.source()              ? document.source()->path
                                                          : QString();
  return std::filesystem::absolute(beside.toStdString()).parent_path() / path;
}

Session::Reference read_reference(const std::filesystem::path& path, const std::string& file, const Job& job) {
  const FileInfo info = read_info(path);
  auto pixels = std::make_shared<const Image>(read_picture(path, 1, {}, job));
  const auto range = pixels->depth() == Depth::f32 ? range_of_data(*pixels) : std::nullopt;
  return {file, std::make_shared<const Pyramid>(std::move(pixels)), info.pixel_size,
          range && range->second > range->first ? range : std::nullopt};
}

}  // namespace fexel
