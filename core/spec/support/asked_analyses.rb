# frozen_string_literal: true

# A random population with rules, two audiences and a run of an export, and a question for every analysis there is.
class AskedAnalyses
  # What a workspace has stored, from a seed.
  class Stored < Estrel::Analyses::Stored
    def initialize(definitions, rules, run, reader = nil, standing: nil)
      super()
      @reader = reader
      @definitions = definitions
      @rules = rules
      @run = run
      @standing = standing
    end

    def audience(id) = @definitions.key?(id) ? NamedAudience.new(id: id, name: "Audience #{id}", definition: @definitions[id]) : super

    def definition(json, _catalogue) = @reader.call(json)

    # The two audiences by name, and seasons.
    def grouping(id, catalogue)
      groups = id == 1 ? [["one", { "audience" => { "id" => 1 } }], ["two", { "audience" => { "id" => 2 } }]] : seasons
      Estrel::Audience::OwnSplit.new(groups.map { |name, json| Estrel::Audience::OwnSplit::Group.new(name, definition(json, catalogue)) })
    end

    def seasons
      edges = [nil, "2025-10-10", "2025-10-26", nil].map { |day| day && Date.iso8601(day) }
      edges.each_cons(2).map do |from, after|
        ["from #{from}", { "seen" => { "window" => { "from" => from, "to" => after && (after - 1) }.compact.transform_values(&:iso8601) } }]
      end
    end

    def rules(_json) = @rules

    def run(id) = id == 1 ? @run.first : super

    def runs_of(id) = id == 1 ? @run : super

    def standing_holdout(id) = id == 1 ? @standing : super

    # The definition of an audience of a number, for definitions that name it.
    def lookup(id) = @definitions[id] && ["Audience #{id}", @definitions[id].to_h]
  end

  # What the block returns for a seed; it is called once for each.
  def self.remembered(seed) = (@remembered ||= {})[seed] ||= yield

  attr_reader :population, :ledger, :rules, :as_of, :stored

  def initialize(seed, population, ledger)
    random = RandomPopulation.new(seed + 1)
    @population = population
    @ledger = ledger
    @rules = random.rule_set
    @as_of = [random.date, random.date, random.date].max
    @from = [random.date, @as_of - 1].min
    definitions = [1, 2].to_h { |id| [id, parse(random.definition(1, RandomPopulation::CONDITIONS - ["audience"]))] }
    @stored = Stored.new(definitions, random.rule_set, runs(Random.new(seed)), method(:definition), standing: standing(seed))
  end

  def catalogue = ledger.catalogue

  # What held for that which the people of a row did, as filters, where they are told apart by what "plan" was then.
  def then_so(answer, row)
    return [] unless answer.caveats.any?(/Split by “plan” at/)

    values = answer.picture[:rows].filter_map { |one| one[:group][:value] if one[:group][:kind] == "value" }
    case row[:group][:kind]
    when "value" then [{ "attribute" => "plan", "compare" => "is", "value" => row[:group][:value] }]
    when "other" then [{ "attribute" => "plan", "compare" => "is_set" }, *values.map { |value| { "attribute" => "plan", "compare" => "is_not", "value" => value } }]
    else [{ "attribute" => "plan", "compare" => "is_not_set" }]
    end
  end

  def workspace(parts: 1, **settings)
    Estrel::Analyses::Workspace.new(ledger: ledger, as_of: as_of, today: as_of + 1, rules: rules, stored: stored, parts: parts, **settings)
  end

  def definition(json)
    parse({ "all" => [json] }, Estrel::Audience::AudienceSource.new(catalogue, stored.method(:lookup), [], rule_sets))
  end

  # One question, or several, for each analysis by its address.
  def questions
    from = @from.iso8601
    { "states" => [{ "from" => from, "step" => "week", "compare_with" => "previous" }],
      "states-by-group" => [{ "from" => from, "step" => "week", "audiences" => [1, 2] }, { "from" => from, "step" => "day", "by" => { "attribute" => "plan" }, "top" => 2 }],
      "state-movement" => [{ "from" => from }],
      "activity" => [{ "from" => from, "step" => "week" }],
      "thresholds" => [{ "horizon" => 5, "audiences" => [1, 2] }, { "by" => { "profile_type" => true }, "churned_after" => rules.churned_after + 3 }],
      "backtest" => [{ "weeks" => 6 }], "revisions" => [{ "from" => from }],
      "rules-effect" => [{ "tried" => { "activity" => [], "new_for" => 1, "active_within" => 1, "churned_after" => 2 } }],
      "trends" => trends(from), "ranking" => [{ "from" => from }, { "counted_by" => "times", "audiences" => [1, 2] }],
      "frequency" => frequency(from), "next-events" => next_events(from), "visits" => visits(from), "experience" => experience(from),
      "retention" => retention(from), "funnel" => funnel(from), "cohort-value" => cohort_value(from),
      "change" => change, "chance" => [{ "within_days" => 7 }, { "of" => "lapse", "within_days" => 9 }],
      "overlap" => [{ "audiences" => [1, 2] }, { "audiences" => [1, 2], "base" => "known" }, { "audiences" => [1, 2], "by" => { "attribute" => "plan" }, "top" => 1 }],
      "breakdown" => [{ "by" => { "state" => true } }, { "by" => { "grouping" => 1 } }, { "by" => { "both" => [{ "grouping" => 2 }, { "state" => true }] } }, { "by" => { "property" => { "event" => "ride_ended", "of" => "dock", "take" => "last" } }, "top" => 1, "audiences" => [1, 2] }],
      "before-after" => before_after, "campaign-results" => [{}], "campaign-days" => [{ "campaign" => "spring", "channel" => "email" }],
      "response-streaks" => [{}, { "channel" => "email" }], "export-effect" => effects,
      "holdout-size" => [{ "audience" => 1, "people" => 400, "share" => 0.1, "days" => 5 }, { "audience" => 2, "people" => 40, "share" => 0.5, "metric" => { "event" => "ride_ended", "measure" => "sum", "property" => "km" } }] }
  end

  private

  def next_events(from)
    rides = { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 1 }] }
    [{ "from" => from, "event" => rides, "depth" => 3, "audiences" => [1, 2] }, { "from" => from, "event" => { "any_event" => true }, "direction" => "before" },
     { "from" => from, "event" => rides, "within" => { "days" => 9 }, "among" => %w[pass_bought message_opened] }, { "from" => from, "event" => { "event" => "pass_bought" }, "within" => { "hours" => 200 }, "direction" => "before", "depth" => 1 }]
  end

  def experience(from)
    rides = { "event" => "ride_ended" }
    far = { "event" => "ride_ended", "where" => [{ "property" => "km", "compare" => "at_least", "value" => 2 }] }
    [{ "series" => [rides, { "event" => "pass_bought" }] }, { "series" => [far], "audiences" => [1, 2], "edges" => [1, 2, 4] },
     { "series" => [rides], "along" => "day", "by" => { "attribute" => "plan" }, "top" => 1 }, { "series" => [{ "any_event" => true }], "along" => "week", "from" => from },
     { "series" => [rides, far], "along" => "time", "edges" => [0, 1, 30, 60] }, { "series" => [rides], "along" => "level", "level" => { "event" => "ride_ended", "property" => "km" } }]
  end

  def cohort_value(from)
    common = { "from" => from, "start" => { "event" => "ride_ended" }, "value" => { "event" => "pass_bought", "property" => "price" } }
    [{ **common, "step" => "day", "audiences" => [1, 2], "cost" => 2 }, { **common, "step" => "week", "by" => { "attribute" => "plan" }, "top" => 1 },
     { **common, "step" => "day", "value" => { "any_event" => true, "measure" => "times" } }]
  end

  def change
    at = (@as_of - 8).iso8601
    [{ "of" => { "event" => "ride_ended" }, "step" => "day", "at" => at, "audiences" => [1] }, { "of" => { "any_event" => true }, "measure" => "times", "at" => at }]
  end

  def funnel(from)
    steps = [{ "event" => "ride_ended" }, { "event" => "pass_bought" }]
    [{ "from" => from, "steps" => steps, "within" => { "days" => 9 }, "audiences" => [1, 2] }, { "from" => from, "steps" => [{ "any_event" => true }, *steps], "by" => { "attribute" => "plan" }, "top" => 1 },
     { "from" => from, "steps" => [steps[0], { **steps[0], "without" => %w[pass_bought] }], "over_time" => true, "step" => "week" },
     { "from" => from, "steps" => steps, "by" => { "both" => [{ "attribute" => "plan" }, { "state" => true }] }, "top" => 1 }, { "from" => from, "steps" => steps, "same_visit" => true }, { "from" => from, "steps" => steps, "same_visit" => true, "counted" => "visits" }]
  end

  def retention(from)
    common = { "from" => from, "start" => { "event" => "ride_ended" }, "return" => { "any_event" => true } }
    [{ **common, "step" => "day", "audiences" => [1, 2] }, { **common, "step" => "week", "starts" => "each", "by" => { "attribute" => "plan" }, "top" => 1, "at" => 1 },
     { **common, "step" => "week", "by" => { "both" => [{ "state" => true }, { "attribute" => "plan" }] }, "top" => 2 }, { **common, "step" => "week", "starts" => "each", "by" => { "both" => [{ "attribute" => "age" }, { "attribute" => "plan" }] }, "top" => 2 },
     { **common, "step" => "day", "counted" => "every" }, { **common, "step" => "day", "counted" => "and_before" }, { **common, "step" => "day", "counted" => "or_later", "starts" => "each" },
     { **common, "step" => "day", "counted" => "ranges", "ranges" => [[0, 0], [1, 1]] }, { **common, "step" => "day", "elapsed" => true, "counted" => "by" }]
  end

  def visits(from)
    [{ "from" => from, "step" => "week" }, { "from" => from, "step" => "day", "audiences" => [1, 2], "unit" => "hours" }, { "from" => from, "step" => "day", "newness" => true },
     { "from" => from, "step" => "week", "by" => { "attribute" => "plan" }, "top" => 1, "order" => "time" }, { "from" => from, "by_first" => "dock", "top" => 2, "order" => "people" },
     { "from" => from, "by" => { "attribute" => "plan" }, "top" => 1, "order" => "sum", "order_by" => { "event" => "ride_ended", "property" => "km" } },
     { "from" => from, "by_first" => "dock", "top" => 1, "order" => "sum", "order_by" => { "event" => "ride_ended", "property" => "km" } },
     { "from" => from, "to" => (@as_of - 3).clamp(@from, @as_of).iso8601, "by_doing" => { "event" => "pass_bought" }, "edges" => [60, 1_801] }]
  end

  def frequency(from)
    rides = { "event" => "ride_ended" }
    [{ "from" => from, "series" => [rides, { "any_event" => true }], "behind" => "previous", "over_time" => true, "step" => "week" },
     { "from" => from, "series" => [rides], "unit" => "days", "of_all" => true, "over_time" => false, "audiences" => [1, 2], "edges" => [1, 2, 4] },
     { "from" => from, "series" => [{ "any_event" => true }], "unit" => "visits", "of_all" => true, "by" => { "attribute" => "plan" }, "top" => 1 },
     { "from" => from, "series" => [rides], "by" => { "both" => [{ "attribute" => "plan" }, { "profile_type" => true }] }, "top" => 2 },
     { "from" => from, "series" => [{ "any_event" => true }], "unit" => "weeks", "edges" => [2, 3] }]
  end

  def trends(from)
    rides = { "event" => "ride_ended", "where" => [{ "property" => "night", "compare" => "is", "value" => true }] }
    passes = { "event" => "pass_bought" }
    common = { "from" => from, "step" => "day" }
    [{ "from" => from, "step" => "week", "series" => [rides, passes, { "any_event" => true }], "behind" => "previous" },
     { **common, "series" => [{ "events" => %w[ride_ended pass_bought] }], "measure" => "per_person", "audiences" => [1, 2] },
     { **common, "series" => [passes], "measure" => "sum", "property" => "price", "by" => { "attribute" => "plan" }, "top" => 1 },
     { **common, "to" => (@as_of - 2).clamp(@from, @as_of).iso8601, "series" => [passes], "by" => { "state" => true }, "measure" => "share_of_active" },
     { **common, "series" => [rides], "by_event" => "dock", "by" => { "attribute" => "plan" }, "top" => 3 }, { **common, "series" => [passes], "by" => { "both" => [{ "attribute" => "plan" }, { "state" => true }] }, "top" => 2 },
     { **common, "series" => [rides], "by" => { "attribute" => "plan" }, "top" => 1 }, { **common, "series" => [rides], "by_event" => "dock", "top" => 1 }, { **common, "series" => [rides, passes], "measure" => "times", "combined" => "per", "behind" => "year" },
     { **common, "series" => [rides], "by_event" => "km", "measure" => "share_of_active" },
     *%w[mean median p90 min max distinct sum_per_person].map { |measure| { "from" => from, "step" => "month", "series" => [passes], "measure" => measure, "property" => "price" } }]
  end

  def rule_sets = Estrel::Audience::RuleSetSource.new(catalogue, ->(*) {}, ->(_) {})

  def parse(json, audiences = nil) = Estrel::Audience::Definition.parse(json, catalogue: catalogue, audiences: audiences, rule_sets: rule_sets)

  def before_after
    around = { "from" => (as_of - 60).iso8601, "to" => as_of.iso8601, "before" => 2, "after" => 2 }
    [{ "first" => { "event" => "pass_bought" }, "metric" => { "event" => "ride_ended" }, **around },
     { "date" => (as_of - 20).iso8601, "audience" => 1, "metric" => { "event" => "ride_ended", "measure" => "sum", "property" => "km" }, "before" => 2, "after" => 2 }]
  end

  def effects
    [{ "run" => 1, "days" => 5, "also" => [{ "lifecycle" => "was_active" }] }, { "standing" => 1, "metric" => { "lifecycle" => "is_active" } }, { "run" => 1, "metric" => { "any_event" => true, "measure" => "people" } },
     { "run" => 1, "metric" => { "event" => "ride_ended", "measure" => "sum", "property" => "km" } },
     { "export" => 1, "days" => 3, "by" => { "attribute" => "plan" }, "also" => [{ "any_event" => true, "measure" => "times" }], "metric" => { "event" => "ride_ended", "measure" => "sum", "property" => "km" } }]
  end

  def standing(seed)
    Estrel::Analyses::Stored::StandingHoldout.new(id: 1, from: as_of - 9, to: as_of - 2, share: 0.4, holdout: Estrel::Exports::Holdout.share("standing #{seed}", 0.4))
  end

  # One of which it is not known when it exported, and one on the evening of a day, of some of the same people.
  def runs(random)
    people = population.people.keys.shuffle(random: random)
    ids = ->(some) { Polars::Series.new("profile_id", (some || []).sort, dtype: Polars::Int64) }
    at = population.calendar.at(as_of - 6, 18, 0)
    [[as_of - 10, nil, *people.each_slice(people.size / 3).first(2)], [as_of - 8, at, *people.rotate(5).each_slice(people.size / 2).first(2)]].map.with_index do |(day, instant, exported, holdout), place|
      Estrel::Analyses::Stored::Run.new(id: place + 1, as_of: day, at: instant, exported: ids.call(exported), holdout: ids.call(holdout), channel: "email")
    end
  end
end
