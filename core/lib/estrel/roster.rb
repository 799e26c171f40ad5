# frozen_string_literal: true

module Estrel
  # The people known by a date, to be listed: chosen, put in order, a page at a time. Frozen.
  class Roster
    ORDERS = %w[last_day first_day inactive_days].freeze

    # @param evaluator [Audience::Evaluator] as of the date
    # @param rule_set [Lifecycle::RuleSet, nil] none where nothing counts as activity yet; nobody has a state then
    def initialize(evaluator, rule_set)
      profiles = evaluator.ledger.profiles
      states = rule_set ? evaluator.states(evaluator.as_of) : stateless(profiles)
      known = profiles.select(%w[profile_id profile_type first_seen_day])
                      .hstack(states.select(%w[state reactivated first_day last_day inactive_days]))
      @people = known.filter(Polars.col("first_seen_day") <= Calendar.number(evaluator.as_of))
      freeze
    end

    # @param state [String, nil] of {Lifecycle::STATES}
    # @param profile_type [String, nil]
    # @param among [Array<Polars::Series>] of profile ids; only those in all of them
    # @return [Polars::DataFrame] one row a person: profile_id, profile_type, state, reactivated, first_day, last_day,
    #   inactive_days
    def where(state: nil, profile_type: nil, among: [])
      conditions = { "state" => state, "profile_type" => profile_type }.compact.map do |column, value|
        Polars.col(column) == value
      end
      conditions.concat(among.map { |ids| Polars.col("profile_id").is_in(ids) })
      conditions.reduce(@people) { |people, condition| people.filter(condition) }
    end

    # @param people [Polars::DataFrame] of {#where}, and maybe further columns
    # @param order [String] of {ORDERS} or another column, the latest, greatest or shortest first; people without one
    #   come last
    # @param page [Integer] from 1
    # @param per_page [Integer]
    # @return [Polars::DataFrame]
    def self.page(people, order:, page:, per_page:)
      people.sort([order, "profile_id"], reverse: [order != "inactive_days", false], nulls_last: true)
            .slice((page - 1) * per_page, per_page)
    end

    private

    def stateless(profiles)
      days = %w[first_day last_day inactive_days].map { |name| Polars.lit(nil).cast(Polars::Int32).alias(name) }
      profiles.select([Polars.col("profile_id"), Polars.lit("never_active").alias("state"),
                       Polars.lit(false).alias("reactivated"), *days])
    end
  end
end
