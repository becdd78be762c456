/// What the program tells of itself for others to show: its page of the manual, and completion for a shell.
#include <fmt/format.h>

#include "cli/output.h"
#include "cli/verbs.h"

namespace fexel::cli {
namespace {

/// Text of a manual page: a hyphen is a minus, and what would be a request is not (groff_man(7)).
std::string roff(std::string_view text) {
  std::string out;
  for (const char c : text) {
    if (c == '\\')
      out += "\\e";
    else if (c == '-')
      out += "\\-";
    else
      out += c;
  }
  if (out.starts_with('.') || out.starts_with('\'')) out.insert(0, "\\&");
  return out;
}

std::string name_of(const CLI::Option& option) {
  std::string out;
  if (option.get_positional()) return option.get_name(true, false);
  for (const std::string& word : option.get_snames()) out += (out.empty() ? "-" : ", -") + word;
  for (const std::string& word : option.get_lnames()) out += (out.empty() ? "--" : ", --") + word;
  if (option.get_items_expected_max() > 0 && !option.get_type_name().empty()) out += " " + option.get_type_name();
  return out;
}

std::string manual(const CLI::App& app) {
  std::string out = fmt::format(
      ".TH FEXEL\\-CLI 1 \"\" \"fexel\\-cli {}\" \"User Commands\"\n.SH NAME\nfexel\\-cli \\- geometry for people who "
      "measure in "
      "pictures\n.SH SYNOPSIS\n.B fexel\\-cli\n.I VERB\n[\\fIOPTIONS\\fR] ...\n.SH DESCRIPTION\nRuns chains of steps "
      "over "
      "pictures, aligns and measures sequences, and makes pictures of many frames: the work of\n.BR fexel (1)\nfrom "
      "the "
      "command line. Sources are never written over.\n.SH VERBS\n",
      roff(FEXEL_VERSION));
  for (const CLI::App* verb : app.get_subcommands({})) {
    out += fmt::format(".SS {}\n{}\n", roff(verb->get_name()), roff(verb->get_description()));
    for (const CLI::Option* option : verb->get_options())
      out += fmt::format(".TP\n.B {}\n{}\n", roff(name_of(*option)), roff(option->get_description()));
  }
  out +=
      ".SH EXIT STATUS\n.TP\n0\nAll was done.\n.TP\n1\nSome or all inputs failed; the others were done.\n.TP\n2\nThe "
      "call, a "
      "table or the chain is wrong; nothing was done.\n.SH SEE ALSO\n.BR fexel (1)\n";
  return out;
}

/// A function for bash: verbs first, then the options of the verb, else files.
std::string completion(const CLI::App& app) {
  std::string verbs, cases;
  for (const CLI::App* verb : app.get_subcommands({})) {
    verbs += " " + verb->get_name();
    std::string words;
    for (const CLI::Option* option : verb->get_options())
      for (const std::string& word : option->get_lnames()) words += " --" + word;
    cases += fmt::format("    {}) words=\"{}\" ;;\n", verb->get_name(), words.substr(words.empty() ? 0 : 1));
  }
  return fmt::format(
      "# bash completion for fexel-cli\n_fexel_cli() {{\n  local word=${{COMP_WORDS[COMP_CWORD]}} words=\"\"\n  if "
      "((COMP_CWORD "
      "== 1)); then\n    COMPREPLY=($(compgen -W \"{} --help --version\" -- \"$word\"))\n    return\n  fi\n  case "
      "${{COMP_WORDS[1]}} in\n{}  esac\n  if [[ $word == -* ]]; then\n    COMPREPLY=($(compgen -W \"$words\" -- "
      "\"$word\"))\n  "
      "else\n    COMPREPLY=()\n  fi\n}}\ncomplete -o default -F _fexel_cli fexel-cli\n",
      verbs.substr(1), cases);
}

}  // namespace

void add_manual(CLI::App& app, Common& common, Verbs& verbs) {
  auto what = std::make_shared<std::string>("page");
  CLI::App* verb = app.add_subcommand("manual", "this program's page of the manual, or completion for bash");
  verb->add_option("WHAT", *what, "page or completion (page)")->check(CLI::IsMember({"page", "completion"}));
  add_common(*verb, common);
  verbs.emplace_back(verb, [what, &app] {
    say(*what == "page" ? manual(app) : completion(app));
    return all_done;
  });
}

}  // namespace fexel::cli
