// What high-arc-calc was asked, and its answers on standard output.
#pragma once

#include "quantity/json_text.h"
#include "workshop/bank_search.h"
#include "workshop/proposals.h"

#include <map>
#include <optional>
#include <set>
#include <string>

// Read, but nothing can be done; the answer on standard output says why. Exit code 3.
struct NotPossible {};
// Ended from outside before it was done. Exit code 4.
struct Cancelled {};

// What the command line said.
struct Request {
  std::string file;
  bool no_trials = false;
  std::string capacitance, voltage, order;
  arc::BankWish wish;
  double tolerance = 0;                       // of parts that state none
  std::set<std::string> ways;                 // flags of the kinds' ways to simulate
  std::map<std::string, std::string> options; // theirs, as typed; a switch that is set holds something
  std::string csv_path;
  std::string import_path, take;  // a table of runs; whose word counts where a run changed on both sides
  std::string duration = "100ms"; // of pulses to print
  bool deck = false;              // print the circuit, not the results
  std::optional<std::string> mains, frequency; // of a new design
  std::string feed;                            // of one, by its key
  arc::ProposeOptions propose;
  std::string make, by, write_path; // "best_mode_1_hz=200k", the number that does it, where the design goes
  std::string from, to;             // ends of a sweep
  int count = 21;
  std::string shelf_path, folder; // in place of a brief's shelf; where proposed designs go
};

// Each prints its answer. What cannot be used throws std::exception with the reason.
void print_analysis(const Request& request);
void print_runs(const Request& request);
void print_current_version(const Request& request);
void print_new(const Request& request);
void print_figures(const Request& request);
void print_power(const Request& request);
void print_interrupter(const Request& request);
void print_banks(const Request& request);
void simulate(const Request& request);
void print_steps(const Request& request);
void print_proposals(const Request& request);
void print_solved(const Request& request);
void print_curves(const Request& request);
