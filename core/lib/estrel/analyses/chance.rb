# frozen_string_literal: true

module Estrel
  module Analyses
    # How likely dormant and churned people are to come back within some days, or new and active ones to lapse. The
    # model is learned from who did at earlier dates, tried on a later one, and compared with the plain rule "days
    # inactive"; then everybody of the as-of date is told by tenths. See {Propensity}.
    class Chance < Analysis
      # At how many dates people are looked at to learn from.
      DATES = 3
      # About so many are looked at to learn from, and to try it on: of more people every second, third, …
      MOST = 100_000

      def self.states? = true

      def more?(found) = found.size < (found.first && !found.first[:model] ? 1 : 2)

      def doing(found) = found.empty? ? "Training on past dates" : super

      def partial(part, found)
        found.empty? ? rows(part) : Tenths.counted(model(found), found.first[:cuts], part)
      end

      # Of the many rows only what was learned from them is kept.
      def settled(round, found)
        found.empty? ? Learned.new(self, round).to_h : round
      end

      def answer(found)
        learned, now = found
        tenths = learned[:model] ? Tenths.new(learned, now || {}) : nil
        more = { caveats: caveats(learned, tenths), tables: Tables.new(self, learned, tenths).all } if tenths
        Answer.new(finding: Finding.new(self, learned, tenths).to_s, picture: picture(learned, tenths), **more.to_h)
      end

      # @return [String] of {Propensity::KINDS}
      def kind = question["of"] || "come_back"

      # @return [Integer] days
      def within = question["within_days"] || 30

      # @return [Date] at whose end people are looked at to try what was learned; what they did since is known
      def tested_on = workspace.as_of - within

      # @return [Array<Date>] at whose ends people are looked at to learn from; what they did since was known on the day
      #   it is tried on
      def learned_from
        earliest = workspace.ledger.oldest_day && (workspace.ledger.oldest_day + workspace.rules.churned_after)
        (2..(DATES + 1)).map { |back| workspace.as_of - (back * within) }.reject { |date| earliest && date < earliest }
      end

      # @return [Hash{String => String}, nil] see {Propensity::Features.spend}
      def spend
        return @spend if defined?(@spend)

        @spend = Propensity::Features.spend(workspace.catalogue)
      end

      # @return [String] "were reactivated", "lapsed"
      def did = kind == "lapse" ? "lapsed" : "were reactivated"

      # @param found [Array<Hash>]
      # @return [Propensity::Model]
      def model(found) = Propensity::Model.from_h(found.first[:model])

      # @return [Hash{Symbol => Integer}] every how many-th person is looked at for `learning` and for `testing`
      def every
        @every ||= { learning: DATES, testing: 1 }.transform_values do |dates|
          [(workspace.ledger.base_size * dates).fdiv(MOST).ceil, 1].max
        end
      end

      private

      def rests_on = [*super, spend, learned_from.map(&:iso8601), every]

      def rows(part)
        { learning: learned_from, testing: [tested_on] }.to_h do |purpose, dates|
          features = Propensity::Features.new(part, within, spend, every: every[purpose])
          [purpose, Polars.concat([nobody, *dates.map { |date| at(features, date) }])]
        end
      end

      def at(features, date)
        rest = kind == "lapse" ? 1.0 : 0.0
        features.at(kind, date).join(features.outcome(kind, date), on: "profile_id", how: "left")
                .with_columns([Polars.col("happened").fill_null(rest), Polars.col("profile_id").cast(Polars::Float64)])
                .select(columns)
      end

      def columns = ["profile_id", "happened", *Propensity::Features::NAMES.keys]

      def nobody
        types = columns.to_h { |name| [name, Polars::Float64] }
        Ledger::Layout.empty(types)
      end

      def picture(learned, tenths)
        { of: kind, within_days: within, refused: learned[:refused], learned_from: learned[:learned_from],
          tested_on: learned[:tested_on], tenths: tenths ? tenths.map(&:to_h) : [],
          discrimination: learned[:discrimination], weights: learned[:weights] || [], model: learned[:model] }
      end

      def caveats(learned, tenths)
        expected = tenths.sum { |tenth| tenth.predicted.to_f * tenth.tested }
        ["Backtest on #{English.date(tested_on)}: #{English.number(expected.round)} predicted, " \
         "#{English.number(learned[:tested_on][:happened])} actual. Expect a similar error now.",
         "Ridge logistic regression, trained on #{English.counted(learned_from.size, "earlier date")}" \
         "#{" (every #{every[:learning]}th person)" if every[:learning] > 1}. Attributes are not used. " \
         "Ranges are 95% CIs.",
         "A probability describes a group, not one person, and says nothing about the effect of a message."]
      end
    end
  end
end
