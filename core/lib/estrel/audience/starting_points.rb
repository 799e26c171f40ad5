# frozen_string_literal: true

module Estrel
  module Audience
    # Ready definitions for what analysts ask most, fitted to the event types, properties and rule set in use. One whose
    # event types are not there is left out.
    class StartingPoints
      # Words that tell a purchase from other event types, and an amount of money from other numbers.
      PURCHASE = /bought|buy|purchas|order|paid|payment|checkout|subscri|invoice|sale/
      MONEY = /price|amount|total|value|fare|cost|revenue|paid/
      # The share of people below what is called much.
      HIGH = 0.8
      WEEK = 7
      MONTH = 30
      private_constant :WEEK, :MONTH

      # One of them. Frozen.
      Point = Struct.new(:name, :definition, keyword_init: true)

      # @param ledger [Ledger::Readable]
      # @param rule_set [Lifecycle::RuleSet, nil]
      def initialize(ledger, rule_set)
        @ledger = ledger
        @rule_set = rule_set
      end

      # @return [Array<Point>]
      def all
        [*buyers, *states, *regulars, *others].filter_map do |name, conditions|
          Point.new(name: name, definition: { "all" => conditions }).freeze if conditions
        end
      end

      private

      def types
        @ledger.catalogue.event_types.values.select { |type| !type.hidden && type.count >= 1 }
      end

      # The activity there is most of.
      def main
        activity = if @rule_set
                     types.select do |type|
                       @rule_set.event_types.include?(type.name)
                     end
                   else
                     types.reject(&:not_activity)
                   end
        activity.max_by(&:count)
      end

      def purchase = types.select { |type| type.name.match?(PURCHASE) && money(type) }.max_by(&:count)

      def money(type) = type.properties.values.find { |field| field.type == "number" && field.name.match?(MONEY) }

      def did(type, count: nil, last_days: nil, of: nil)
        window = last_days ? { "last_days" => last_days } : { "ever" => true }
        asked = { **(count || { "at_least" => 1 }), "of" => of }.compact
        { "did" => { "event" => type.name, "count" => asked, "window" => window } }
      end

      def never(type, last_days: nil) = did(type, count: { "exactly" => 0 }, last_days: last_days)

      def state(*states, **time) = { "lifecycle" => { "is" => states, **time.transform_keys(&:to_s) } }

      def buyers
        bought = purchase or return {}
        { "New without a purchase" => @rule_set && [state("new"), never(bought)],
          "First purchase in the last week" => [{ "first" => { "event" => bought.name,
                                                               "window" => { "last_days" => WEEK } } }],
          "One-time buyers" => [did(bought, count: { "exactly" => 1 }), never(bought, last_days: MONTH)],
          "Lapsed big spenders" => @rule_set && [state("dormant", "churned"), spent(bought)] }
      end

      def spent(bought)
        property = money(bought).name
        { "did" => { "event" => bought.name, "window" => { "ever" => true },
                     "measure" => { "of" => property, "take" => "sum", "compare" => "at_least",
                                    "value" => much(bought, property) } } }
      end

      # A round number that a fifth of those who paid anything reach.
      def much(type, property)
        sums = @ledger.scan(type.name).group_by("profile_id")
                      .agg([Polars.col(Ledger::Layout.property(property)).sum.alias("sum")]).collect["sum"]
        rounded(sums.quantile(HIGH) || 0)
      end

      # Down to one figure, so that it reads as what it is: a choice.
      def rounded(number) = number < 1 ? 1 : number.floor(-Math.log10(number).floor).to_i

      def states
        return {} unless @rule_set && main

        soon = [(@rule_set.active_within * 3 / 4.0).ceil, 1].max
        idle = { "did" => { "events" => @rule_set.event_types.select do |name|
          @ledger.catalogue.event_types.key?(name)
        end,
                            "count" => { "exactly" => 0 }, "window" => { "last_days" => soon } } }
        { "About to go dormant" => [state("new", "active"), idle],
          "Reactivated in the last two weeks" =>
            [state("new", "active", entered_last_days: 14, from: %w[dormant churned]), state("new", "active")],
          "Newly dormant" => [state("dormant", entered_last_days: WEEK)],
          "Active for half a year" => [state("active", for_at_least_days: 180)],
          "Churned but can be reached" => [state("churned"), { "reachable" => { "by" => %w[email] } }] }
      end

      def regulars
        usual = main or return {}
        { "Every week for a month" => [{ "rhythm" => { "event" => usual.name, "each" => "week", "last" => 4 } }],
          "Heavy users without a reachable channel" =>
            [did(usual, count: { "at_least" => often(usual) }, last_days: MONTH),
             { "not" => { "reachable" => { "by" => Reach::CHANNELS } } }],
          "Active on one day only" =>
            [did(usual, of: "days", count: { "exactly" => 1 }), never(usual, last_days: MONTH)] }
      end

      # How often a fifth of those who do it do it in a month, as of the newest day.
      def often(type)
        day = Polars.col("day")
        counts = @ledger.scan(type.name).filter(day > day.max - MONTH).group_by("profile_id")
                        .agg([Polars.len.alias("n")]).collect["n"]
        [(counts.quantile(HIGH) || 0).ceil, 2].max
      end

      def others
        usual = main or return {}
        before = (types - [usual, purchase]).reject(&:not_activity).max_by(&:count)
        begun = before && [{ "order" => { "steps" => [{ "event" => before.name }], "window" => { "last_days" => MONTH },
                                          "then_not" => { "event" => usual.name, "within" => { "days" => 1 } } } }]
        { "Started but did not finish" => begun,
          "Visitors who are not customers yet" => [{ "profile_type" => { "is" => %w[visitor] } },
                                                   did(usual, last_days: MONTH)] }
      end
    end
  end
end
