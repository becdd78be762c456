#include <fmt/format.h>
#include <openssl/evp.h>

#include <fstream>

#include "base/error.h"
#include "files/picture.h"

namespace fexel {

std::string checksum(const std::filesystem::path& path, const Job& job) {
  std::ifstream in(path, std::ios::binary);
  if (!in) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  const std::unique_ptr<EVP_MD_CTX, decltype(&EVP_MD_CTX_free)> context(EVP_MD_CTX_new(), EVP_MD_CTX_free);
  EVP_DigestInit_ex(context.get(), EVP_sha256(), nullptr);
  std::vector<char> block(1 << 20);
  while (in) {
    job.check();
    in.read(block.data(), static_cast<std::streamsize>(block.size()));
    EVP_DigestUpdate(context.get(), block.data(), static_cast<std::size_t>(in.gcount()));
  }
  unsigned char digest[EVP_MAX_MD_SIZE];
  unsigned int length = 0;
  EVP_DigestFinal_ex(context.get(), digest, &length);
  std::string text;
  for (unsigned int i = 0; i < length; ++i) text += fmt::format("{:02x}", digest[i]);
  return text;
}

}  // namespace fexel
