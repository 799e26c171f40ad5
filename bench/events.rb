# frozen_string_literal: true

module Bench
  # The analyses of what people do, each asked with nothing remembered and once more of the same generation; {EventsSQL}
  # asks the same of databases.
  class Events
    AS_OF = Questions::AS_OF
    YEAR = AS_OF - 364
    SERIES = { "ride" => { event: "ride_ended" }, "plan" => { event: "trip_planned" },
               "pass" => { event: "pass_bought" } }.freeze

    STEPS = SERIES.values_at("ride", "plan", "ride", "plan", "ride", "plan", "ride", "pass").freeze
    # As many as can be asked about at once, by number: who did one of the types so often in 30 days.
    AUDIENCES = DataSet::TYPES.keys.first(3).product([1, 4]).each_with_index.to_h do |(event, times), number|
      did = { "event" => event, "count" => { "at_least" => times }, "window" => { "last_days" => 30 } }
      [number + 1, { "did" => did }]
    end.freeze
    # What a workspace keeps.
    Kept = Struct.new(:audiences, :catalogue) do
      def audience(id)
        definition = Estrel::Audience::Definition.parse(audiences.fetch(id), catalogue: catalogue)
        Estrel::Analyses::Stored::NamedAudience.new(id: id, name: "audience #{id}", definition: definition)
      end

      def rules_condition = {}
    end
    private_constant :AUDIENCES, :Kept

    # @param directory [String] of the ledger
    def initialize(directory)
      @directory = directory
    end

    # @yieldparam name [String]
    # @yieldparam cold [Float] seconds, the median of several, nothing remembered
    # @yieldparam warm [Float] seconds, asked again
    # @yieldparam answer [Object] comparable with that of a database
    # @return [void]
    def each(&) = Questions.new(@directory).each_twice(all, &)

    # Why rides changed from one week to the next, told apart by everything there is and by as many audiences as can be
    # asked about.
    #
    # @yieldparam cold [Float] seconds, the median of several, nothing remembered
    # @yieldparam splits [Integer] how many had more than one value
    # @return [void]
    def splits
      found = nil
      question = ->(generation) { found = change(generation, AUDIENCES) }
      Questions.new(@directory).each_twice({ "splits" => question }) { |_, cold, _, _| yield cold, found[:splits].size }
    end

    private

    def all
      { "people per day, a year" => method(:people_per_day), "three events by plan, weeks" => method(:by_plan),
        "ranking, 30 days" => method(:ranking), "frequency, 30 days" => method(:frequency),
        "next events, 3 on, 90 days" => method(:next_events), "experience, 20 visits" => method(:experience),
        "retention, 52 weeks" => ->(generation) { retention(generation, from: YEAR) },
        "retention, 52 weeks, every week's first" => lambda do |generation|
          retention(generation, from: YEAR, starts: "each")
        end,
        "retention, 90 days of 90 days" => ->(generation) { retention(generation, from: AS_OF - 89, step: "day") },
        "value, 24 months" => method(:value),
        "funnel, 4 steps in 14 days" => method(:funnel), "funnel, 8 steps ever" => method(:long_funnel),
        "change, of a week" => ->(generation) { changed(change(generation)) },
        "change, 10 splits" => ->(generation) { changed(change(generation, AUDIENCES)) },
        "chance, fit and score" => method(:chance),
        "visits, 90 days" => visits_since(AS_OF - 89),
        "visits, all" => visits_since(AS_OF - 3_650) }
    end

    def visits_since(from) = ->(generation) { visits(generation, from) }

    def lines(generation, question) = Analyses.answer(generation, "trends", { from: YEAR, **question }).picture[:rows]

    def people_per_day(generation)
      lines(generation, { series: [SERIES.fetch("ride")], step: "day" }).sum { |line| line[:values].sum }
    end

    def by_plan(generation)
      question = { series: SERIES.values, step: "week", by: { attribute: "plan" } }
      lines(generation, question).sum { |line| line[:values].sum }
    end

    def ranking(generation)
      Analyses.answer(generation, "ranking").picture[:rows].to_h { |row| row.values_at(:event, :people) }
    end

    def visits(generation, from)
      row = Analyses.answer(generation, "visits", { from: from, step: "month" }).picture[:rows].first
      visits, people, mean = row[:figures].values_at(:visits, :people, :mean).map { |figure| figure[:total] }
      [visits, people, (visits * mean).round]
    end

    def experience(generation)
      question = { series: [SERIES.fetch("ride")], edges: (1..20).to_a }
      row = Analyses.answer(generation, "experience", question).picture[:rows].first
      %i[times reached].each_with_object({}) do |what, found|
        row[what].each_with_index { |count, at| found["#{what} #{at + 1}"] = count }
      end
    end

    # Fewer event types than a place has branches of their own, so every way is told.
    def next_events(generation)
      question = { event: SERIES.fetch("ride"), depth: 3, from: AS_OF - 89 }
      ways(Analyses.answer(generation, "next-events", question).picture[:branches])
    end

    def retention(generation, **more)
      question = { start: SERIES.fetch("plan"), return: SERIES.fetch("ride"), **more }
      row = Analyses.answer(generation, "retention", question).picture[:rows].first
      [row[:sizes].sum, row[:cells].flatten.sum]
    end

    def value(generation)
      question = { start: SERIES.fetch("ride"), value: { event: "pass_bought", measure: "times" }, step: "month",
                   from: AS_OF - 729 }
      row = Analyses.answer(generation, "cohort-value", question).picture[:rows].first
      [row[:sizes].sum, row[:totals].flatten.sum.round]
    end

    def long_funnel(generation)
      question = { steps: STEPS, from: AS_OF - 729 }
      Analyses.answer(generation, "funnel", question).picture[:rows].first[:steps].map { |step| step[:people] }
    end

    # Besides audiences people are told apart by their state, their profile type and two attributes.
    def change(generation, audiences = {})
      question = { of: SERIES.fetch("ride"), measure: "times", audiences: audiences.keys }
      stored = Kept.new(audiences, generation.catalogue)
      Analyses.answer(generation, "change", question, stored: stored).picture
    end

    def changed(picture) = picture[:total].values_at(:before, :after)

    def chance(generation)
      Analyses.answer(generation, "chance", { of: "lapse" }).picture[:tenths].map { |tenth| tenth[:people] }
    end

    def funnel(generation)
      steps = [*SERIES.values_at("ride", "plan"), { event: "app_opened" }, SERIES.fetch("pass")]
      question = { steps: steps, within: { days: 14 }, from: AS_OF - 89 }
      Analyses.answer(generation, "funnel", question).picture[:rows].first[:steps].map { |step| step[:people] }
    end

    def ways(branches, before = [])
      branches.each_with_object({}) do |branch, found|
        way = [*before, DataSet::TYPES.keys.index(branch[:event]) + 1]
        found[way.join("-")] = branch[:times]
        found.update(ways(branch[:branches], way))
      end
    end

    def frequency(generation)
      picture = Analyses.answer(generation, "frequency", { series: [SERIES.fetch("ride")] }).picture
      picture[:buckets].zip(picture[:rows].first[:counts]).to_h { |bucket, count| [bucket[:said], count] }
    end
  end
end
