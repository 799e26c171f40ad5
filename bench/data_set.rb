# frozen_string_literal: true

module Bench
  # A seeded population with skewed activity, made as whole columns straight into a ledger.
  class DataSet
    LAST_DAY = Date.new(2026, 6, 30)
    DAYS = 730
    SEED = 7
    # Event types with their share of all events.
    TYPES = { "ride_ended" => 0.5, "trip_planned" => 0.3, "app_opened" => 0.15, "pass_bought" => 0.05 }.freeze
    # Passes stand for answers to what opening the app stands for: a message. Neither names a campaign.
    MESSAGING = { "received" => "app_opened", "opened" => "pass_bought" }.freeze
    PLANS = ["pay as you go", "monthly pass", "day pass", "student"].freeze
    RANDOM = 1 << 20
    VISIT_GAP = 30 * 60 * 1_000_000
    LATE = 0.02
    LATE_BY = 3 * 86_400 * 1_000_000
    QUARTERS = (1..20).map { |number| format("quarter %02d", number) }.freeze

    # @param profiles [Integer]
    # @param events [Integer]
    # @param traits [Integer] how many further attributes there are, of four values each
    def initialize(profiles:, events:, traits: 0)
      @profiles = profiles
      @events = events
      @traits = (1..traits).map { |number| "trait #{number}" }
      @seed = SEED
    end

    # @param directory [String] of the ledger
    # @return [void]
    def write_ledger(directory)
      writer = Estrel::Ledger::Writer.new(directory, calendar: Estrel::Calendar.new("UTC"))
      types = TYPES.keys.each_with_index.map { |name, index| event_type(index + 1, name) }
      frames = types.to_h do |type|
        [type, writer.with_days(events(type)).sort(Estrel::Ledger::Layout::EVENT_ORDER)]
      end
      frames.each { |type, frame| writer.put_sorted_events(type.id, frame) }
      writer.put_spine(Estrel::Ledger::Spine.of(frames, writer.calendar, VISIT_GAP))
      writer.put_attribute_history(history)
      writer.put_profiles(people)
      writer.put_reach(reach)
      { put_origins: :ORIGIN_COLUMNS, put_renamed: :RENAMED_COLUMNS }.each do |put, columns|
        columns = Estrel::Ledger::Layout.const_get(columns)
        writer.public_send(put, Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns))
      end
      attributes = ["plan", "quarter", *@traits].map { |name| field(name, "text") }
      writer.commit(catalogue: Estrel::Catalogue.new(event_types: types, attributes: attributes, messaging: Estrel::Campaigns::Messaging.new(MESSAGING)),
                    facts: { "event_count" => types.sum(&:count), **bounds, "visit_gap" => VISIT_GAP,
                             "oldest_received_at" => bounds.fetch("oldest_occurred_at") })
    end

    private

    # The first instant of the first day and the last one of the last.
    def bounds
      start = Estrel::Calendar.number(LAST_DAY - DAYS + 1) * 86_400 * 1_000_000
      { "oldest_occurred_at" => start, "newest_occurred_at" => start + (DAYS * 86_400 * 1_000_000) - 1 }
    end

    def event_type(id, name)
      properties = name == "ride_ended" ? { "distance_km" => field("distance_km", "number") } : {}
      Estrel::Catalogue::EventType.new(id: id, name: name, properties: properties,
                                       count: (@events * TYPES.fetch(name)).to_i)
    end

    def field(name, type) = Estrel::Catalogue::Field.new(name: name, type: type, mixed: false)

    # Uniform numbers in [0, 1).
    def uniform(count)
      @seed += 1
      Polars::Series.new("u", (0...RANDOM).to_a).sample(n: count, with_replacement: true, seed: @seed)
                    .cast(Polars::Float64) / RANDOM
    end

    # A few people do much, most do little: the profile's rank is a power of a uniform number.
    def events(type)
      start = Estrel::Calendar.number(LAST_DAY - DAYS + 1) * 86_400
      columns = Polars::DataFrame.new({ "who" => uniform(type.count), "time" => uniform(type.count),
                                        "fine" => uniform(type.count), "km" => uniform(type.count) })
      second = ((Polars.col("time") + (Polars.col("fine") / RANDOM)) * (DAYS * 86_400)).floor + start
      at = (second.cast(Polars::Int64) * 1_000_000).alias("occurred_at")
      # Two of a hundred are received three days late.
      late = Polars.when(Polars.col("fine") < LATE).then(LATE_BY).otherwise(0).cast(Polars::Int64)
      wanted = [((Polars.col("who").pow(2.2) * @profiles).floor.cast(Polars::Int64) + 1).alias("profile_id"), at,
                ((second.cast(Polars::Int64) * 1_000_000) + late).alias("received_at"), Polars.lit(1).cast(Polars::Int32).alias("source_id")]
      wanted << devices.alias("device")
      wanted << (Polars.col("km") * 12).round(2).alias("property:distance_km") if type.properties.any?
      columns.select(wanted).with_row_index(name: "row")
             .with_columns([(Polars.col("row").cast(Polars::Int64) + (type.id * 1_000_000_000)).alias("event_id")])
             .drop("row")
    end

    # Two devices a person, the second for every fourth event; every tenth event came from none.
    def devices
      profile = (Polars.col("who").pow(2.2) * @profiles).floor.cast(Polars::Int64)
      Polars.when(Polars.col("fine") < 0.1).then(nil)
            .otherwise((profile * 2) + (Polars.col("fine") > 0.775).cast(Polars::Int64))
    end

    def people
      ids = (1..@profiles).to_a
      Polars::DataFrame.new({ "profile_id" => ids, "profile_type" => ["customer"] * @profiles,
                              "identifier:customer" => ids.map { |id| "C#{id}" },
                              "first_seen_at" => [0] * @profiles,
                              "attribute:plan" => ids.map { |id| PLANS[id % PLANS.size] },
                              "attribute:quarter" => ids.map { |id| QUARTERS[id % QUARTERS.size] },
                              **@traits.to_h { |name| ["attribute:#{name}", ids.map { |id| trait(name, id) }] } })
    end

    # Four of five have an e-mail address; every tenth of all has withdrawn consent.
    def reach
      columns = Estrel::Ledger::Layout::REACH_COLUMNS
      ids = Polars::DataFrame.new({ "profile_id" => (1..@profiles).to_a })
      id = Polars.col("profile_id")
      zero = Polars.lit(0).cast(Polars::Int64)
      common = [id, Polars.lit("email").alias("channel"), zero.alias("occurred_at"), zero.alias("received_at")]
      address = Polars.concat_str([Polars.lit("p"), id.cast(Polars::String), Polars.lit("@example.org")])
      none = ->(name) { Polars.lit(nil).cast(columns.fetch(name)).alias(name) }
      refused = [none.call("address"), Polars.lit(false).alias("given")]
      Polars.concat([ids.filter(id % 5 != 0).select([*common, address.alias("address"), none.call("given")]),
                     ids.filter(id % 10 == 3).select([*common, *refused])])
    end

    def trait(name, id) = "#{name} is #{(id / name[/\d+/].to_i) % 4}"

    # Everybody had another plan in the first year; the rest has been so from the start.
    def history
      start = Estrel::Calendar.number(LAST_DAY - DAYS + 1) * 86_400 * 1_000_000
      ids = (1..@profiles).to_a
      plans = [[start, 1], [start + (365 * 86_400 * 1_000_000), 0]].map do |time, shift|
        ["plan", time, ids.map { |id| PLANS[(id + shift) % PLANS.size] }]
      end
      told = plans + @traits.map { |name| [name, start, ids.map { |id| trait(name, id) }] }
      columns = { "profile_id" => ids * told.size, "attribute" => told.flat_map { |name,| [name] * @profiles },
                  "occurred_at" => told.flat_map { |_, time,| [time] * @profiles } }
      columns["received_at"] = columns["occurred_at"]
      columns["value"] = told.flat_map(&:last)
      Polars::DataFrame.new(columns, schema_overrides: Estrel::Ledger::Layout::HISTORY_COLUMNS)
    end
  end
end
