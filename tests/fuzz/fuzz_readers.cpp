// Fuzzes every reader of text that comes from outside, in one process: seeded mutations of a kept corpus. Each
// input must be read whole or refused with a message; what is read must be writable and read back equal.
//   fuzz-readers CORPUS RUNS [SEED]     RUNS inputs for each reader
// An input that ends the program is left in the file "fuzz-crash" of the working folder.
#include "file/design_file.h"
#include "parts/profile_import.h"
#include "quantity/quantity.h"
#include "workshop/run_table.h"
#include "workshop/shelf.h"
#include "workshop/unsaved.h"

#include <algorithm>
#include <array>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fcntl.h>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <string>
#include <unistd.h>
#include <vector>

namespace {

using Texts = std::vector<std::string>;

const std::string* present = nullptr; // the input being read

void keep_input(int signal) {
  const int file = open("fuzz-crash", O_WRONLY | O_CREAT | O_TRUNC, 0644);
  if (file >= 0 && present) [[maybe_unused]]
    const auto n = write(file, present->data(), present->size());
  std::signal(signal, SIG_DFL);
  std::raise(signal);
}

[[noreturn]] void broken(const char* what) {
  std::fprintf(stderr, "fuzz-readers: %s\n%s\n", what, present->substr(0, 400).c_str());
  keep_input(SIGABRT);
  std::abort();
}

// Runs a reader; only its own kind of error may leave it, with words in it.
template <typename Error, typename Read>
bool reads(Read read) {
  try {
    read();
    return true;
  } catch (const Error& error) {
    const std::string words = error.what();
    if (words.empty() || words.find("std::") != std::string::npos || words.find("stod") != std::string::npos)
      broken("a message that no person can act on");
    return false;
  } catch (const std::exception& error) {
    broken(error.what());
  }
}

bool design(const std::string& text) {
  return reads<arc::DesignFileError>([&] {
    const arc::Design d = arc::read_design(text);
    if (arc::read_design(arc::write_design(d)) != d) broken("a design that does not survive its own file");
  });
}

bool recovery(const std::string& text) {
  return reads<arc::DesignFileError>([&] {
    arc::read_unsaved_head(text);
    const arc::Unsaved unsaved = arc::read_unsaved(text);
    if (arc::read_unsaved(arc::write_unsaved(unsaved)) != unsaved)
      broken("unsaved work that does not survive itself");
  });
}

bool shelf(const std::string& text) {
  return reads<arc::ShelfError>([&] {
    const std::string once = arc::write_shelf(arc::read_shelf(text));
    if (arc::write_shelf(arc::read_shelf(once)) != once) broken("a shelf that does not survive its own file");
  });
}

bool shelf_csv(const std::string& text) {
  bool any = false;
  for (const arc::ShelfGroup& group : arc::shelf_groups())
    any |= reads<arc::ShelfError>([&] { arc::parts_from_csv(text, group); });
  return any;
}

bool runs_csv(const std::string& text) {
  return reads<arc::RunFileError>([&] {
    const auto runs = arc::read_runs(arc::runs_to_csv(arc::read_runs(text, {}).added), {}).added; // twelve digits
    if (arc::read_runs(arc::runs_to_csv(runs), {}).added != runs)
      broken("runs that do not survive their own table");
  });
}

bool svg(const std::string& text) {
  return reads<arc::ProfileError>([&] {
    if (arc::profile_from_svg(text).size() > arc::most_profile_points) broken("too many points");
  });
}

bool profile_csv(const std::string& text) {
  return reads<arc::ProfileError>([&] {
    if (arc::profile_from_csv(text).size() > arc::most_profile_points) broken("too many points");
  });
}

bool entry(const std::string& text) {
  bool any = false;
  for (int d = 0; d <= static_cast<int>(arc::Dimension::fraction); ++d) {
    const auto dimension = static_cast<arc::Dimension>(d);
    const arc::ParseResult result = arc::parse_quantity(text, dimension, arc::UnitSystem::metric, 1e-9);
    if (const double* value = std::get_if<double>(&result)) {
      any = true;
      if (!std::isfinite(*value)) broken("an entry that is no number");
      arc::format_entry(*value, dimension, arc::UnitSystem::inch);
    } else if (std::get<arc::ParseError>(result).message.empty()) {
      broken("an entry refused without a word");
    }
  }
  return any;
}

struct Reader {
  const char* name; // folder of its corpus
  bool (*read)(const std::string&);
};
constexpr std::array<Reader, 8> readers{{{"design", design},
                                         {"recovery", recovery},
                                         {"shelf", shelf},
                                         {"shelf-csv", shelf_csv},
                                         {"runs-csv", runs_csv},
                                         {"svg", svg},
                                         {"profile-csv", profile_csv},
                                         {"entry", entry}}};

const std::array tokens{"{",
                        "}",
                        "[",
                        "]",
                        ",",
                        ":",
                        "\"",
                        "null",
                        "true",
                        "1e308",
                        "1e-320",
                        "-1",
                        "0",
                        "1e999",
                        "NaN",
                        "-0.0",
                        "4294967297",
                        "\n",
                        "\r\n",
                        "\t",
                        ",,",
                        "\"\"",
                        "=1+1",
                        "@x",
                        "'=",
                        "\xC3\xB6",
                        "\xFF",
                        "[[[[[[[[[[[[[[[[[[[[[[[[[[",
                        "{\"a\":",
                        "L1e9 1e9",
                        "A1 1 0 0 1 2 3",
                        "Z",
                        "M0 0",
                        "<g>",
                        "</g>",
                        "&#0;",
                        "<path d=\"",
                        "kHz",
                        "1/0",
                        "4n7",
                        "154J",
                        "4' 6\"",
                        "AWG",
                        "µ",
                        "½",
                        "\"kind\"",
                        "\"turns\": -3",
                        "2.5"};

std::string mutated(const Texts& corpus, std::mt19937& random) {
  const auto below = [&](std::size_t n) { return n == 0 ? 0 : random() % n; };
  std::string text = corpus[below(corpus.size())];
  for (std::size_t changes = 1 + below(4); changes > 0; --changes) {
    const std::size_t at = below(text.size() + 1);
    switch (below(8)) {
    case 0:
      if (at < text.size()) text[at] = static_cast<char>(random());
      break;
    case 1:
      text.insert(at, tokens[below(tokens.size())]);
      break;
    case 2:
      text.erase(at, 1 + below(12));
      break;
    case 3:
      text.resize(at); // cut off
      break;
    case 4: { // a piece of another one
      const std::string& other = corpus[below(corpus.size())];
      const std::size_t from = below(other.size() + 1);
      text.insert(at, other.substr(from, below(60)));
      break;
    }
    case 5: { // a piece twice
      const std::string piece = text.substr(at, below(80));
      text.insert(at, piece);
      break;
    }
    case 6: // another digit
      if (const auto digit = text.find_first_of("0123456789", at); digit != std::string::npos)
        text[digit] = static_cast<char>('0' + below(10));
      break;
    default: // a token in the place of a number
      if (const auto digit = text.find_first_of("0123456789", at); digit != std::string::npos)
        text.replace(digit, 1 + below(4), tokens[below(tokens.size())]);
    }
    if (text.size() > 20000) text.resize(20000);
  }
  return text;
}

Texts corpus_of(const std::filesystem::path& folder) {
  std::vector<std::filesystem::path> paths;
  for (const auto& file : std::filesystem::directory_iterator(folder)) paths.push_back(file.path());
  std::ranges::sort(paths);
  Texts out;
  for (const auto& path : paths) {
    std::ifstream in(path, std::ios::binary);
    out.emplace_back(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
  }
  return out;
}

} // namespace

int main(int argc, char** argv) {
  if (argc < 3) return std::fprintf(stderr, "usage: fuzz-readers CORPUS RUNS [SEED]\n"), 2;
  for (const int signal : {SIGSEGV, SIGABRT, SIGFPE, SIGBUS}) std::signal(signal, keep_input);
  const long runs = std::atol(argv[2]);
  std::mt19937 random(argc > 3 ? static_cast<unsigned>(std::atol(argv[3])) : 1u);
  for (const Reader& reader : readers) {
    const Texts corpus = corpus_of(std::filesystem::path(argv[1]) / reader.name);
    if (corpus.empty()) return std::fprintf(stderr, "no corpus for %s\n", reader.name), 2;
    long accepted = 0;
    for (const std::string& text : corpus) { // as they were kept
      present = &text;
      reader.read(text);
    }
    for (long i = 0; i < runs; ++i) {
      const std::string text = mutated(corpus, random);
      present = &text;
      accepted += reader.read(text);
    }
    std::printf("%s: %zu kept, %ld tried, %ld read\n", reader.name, corpus.size(), runs, accepted);
    if (runs >= 1000 && accepted == 0) return std::fprintf(stderr, "nothing was ever read\n"), 1;
    if (runs >= 1000 && accepted == runs) return std::fprintf(stderr, "nothing was ever refused\n"), 1;
  }
}
