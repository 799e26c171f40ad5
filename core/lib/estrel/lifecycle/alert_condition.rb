# frozen_string_literal: true

module Estrel
  class Lifecycle
    # What an alert rule waits for: whether it holds as of a complete day, in words. Frozen.
    class AlertCondition
      # Each kind with its settings: default value and the values allowed.
      KINDS = {
        "gain_loss_below" => { "ratio" => [1.0, 0.01..100.0], "weeks" => [2, 1..52] },
        "dormant_grew" => { "share" => [0.1, 0.01..10.0], "days" => [28, 1..366] },
        "reactivation_above" => { "share" => [0.25, 0.01..1.0], "horizon" => [90, 1..730] },
        "revised" => { "share" => [0.05, 0.001..10.0], "weeks" => [8, 1..52] }
      }.freeze

      # Raised for a kind there is not and settings out of range.
      class Invalid < Error; end

      # @return [String] of {KINDS}
      attr_reader :kind
      # @return [Hash{String => Numeric}]
      attr_reader :settings

      # @param kind [String]
      # @param settings [Hash] those left out get their default
      # @raise [Invalid]
      def initialize(kind, settings = {})
        known = KINDS[kind] or raise Invalid, "an alert must be one of #{KINDS.keys.join(", ")}"
        @kind = kind
        @settings = known.to_h do |name, (default, range)|
          [name, checked(name, settings.fetch(name, default), range)]
        end.freeze
        freeze
      end

      # @return [String] what it waits for, in words
      def to_s
        share, within = settings.values_at("share", "weeks")
        case kind
        when "gain_loss_below"
          "the gain/loss ratio is below #{ratio(settings["ratio"])} #{weeks(within)} in a row"
        when "dormant_grew" then "dormant grew by #{percent(share)} or more within #{days(settings["days"])}"
        when "reactivation_above"
          "more than #{percent(share)} of churned people are reactivated within #{settings["horizon"]} days"
        else "a state count of the last #{weeks(within)} is revised by more than #{percent(share)}"
        end
      end

      # @param workspace [Analyses::Workspace] as of a day that has ended
      # @return [String, nil] what there is to tell; nil where the condition does not hold
      def told(workspace)
        case kind
        when "gain_loss_below" then gain_loss(workspace)
        when "dormant_grew" then dormant(workspace)
        when "reactivation_above" then reactivation(workspace)
        else moved(workspace)
        end
      end

      private

      def checked(name, value, range)
        whole = range.begin.is_a?(Integer)
        fits = value.is_a?(Numeric) && (!whole || value.is_a?(Integer)) && value.to_f.finite? && range.cover?(value)
        if fits
          value
        else
          raise(Invalid, "#{English.field(name)} must be a #{"whole " if whole}number from #{range.begin} " \
                         "to #{range.end}, not #{value.inspect}")
        end
      end

      # What is counted in all parts of the ledger.
      def counted(workspace)
        of_part = lambda do |part|
          workspace.budget.check
          yield part.lifecycle
        end
        Analyses::Renewal.ask(workspace, of_part) do |asked|
          asked.parts.map(&of_part).reduce { |one, other| Analyses::Sum.of(one, other) }
        end
      end

      def settled?(workspace, date)
        Beginning.new(counted(workspace, &:firsts).keys).reached?(date, workspace.rules.churned_after)
      end

      def everybody(lifecycle) = Grouping.everybody(lifecycle.ledger)

      def gain_loss(workspace)
        last_sunday = workspace.as_of - (workspace.as_of.cwday % 7)
        steps = Steps.covering("week", last_sunday - (7 * settings["weeks"]) + 1, last_sunday)
        return unless settled?(workspace, steps.dates.first)

        movements = counted(workspace) { |lifecycle| lifecycle.movements(steps, everybody(lifecycle)).first }
        ratios = movements.map(&:gain_loss_ratio)
        return unless ratios.all? { |ratio| ratio && ratio < settings["ratio"] }

        when_so = ratios.size == 1 ? "the last week" : "each of the last #{ratios.size} weeks"
        "The gain/loss ratio was below #{ratio(settings["ratio"])} in #{when_so}: " \
          "#{ratios.map { |found| ratio(found) }.join(", ")}."
      end

      def dormant(workspace)
        dates = [workspace.as_of - settings["days"], workspace.as_of]
        return unless settled?(workspace, dates.first)

        before, now = counted(workspace) do |lifecycle|
          dates.map { |date| lifecycle.counts(date, date)["dormant"].first }
        end
        return if before.zero? || (now - before).fdiv(before) < settings["share"]

        "Dormant grew by #{percent((now - before).fdiv(before))} within #{days(settings["days"])}: from " \
          "#{number(before)} to #{number(now)} people."
      end

      def reactivation(workspace)
        last = Calendar.number(workspace.as_of)
        every = Durations.every(workspace.ledger.base_size)
        gaps = counted(workspace) { |lifecycle| Durations.new(lifecycle, last, every: every).of(everybody(lifecycle)) }
        after = workspace.rules.churned_after
        chance = Durations.estimates(gaps, 1).first.ends_within(after, settings["horizon"])
        return if chance.nil? || chance[:low].nil? || chance[:low] <= settings["share"]

        "#{percent(chance[:estimate])} of people inactive for #{after} days are reactivated within " \
          "#{settings["horizon"]} days: the churn threshold may be too short."
      end

      def moved(workspace)
        from = workspace.as_of - (7 * settings["weeks"])
        revisions = Analyses::Revisions.ask({ "from" => from.iso8601 }, workspace)
        row = revisions.rows(revisions.collect).max_by(&:moved)
        return unless row && row.moved > settings["share"]

        state = row.most_moved
        "#{English.state(state).capitalize} on #{English.date(row.date)} revised from #{number(row.before[state])} " \
          "to #{number(row.now[state])}#{apart(row)}. #{row.hint}"
      end

      # Of next to nothing, any part is large.
      def apart(row)
        return "" if row.before[row.most_moved] < Revision::SMALL

        " (#{percent(row.moved)})"
      end

      def days(count) = count == 1 ? "a day" : "#{count} days"

      def weeks(count) = count == 1 ? "week" : "#{count} weeks"

      def ratio(number) = English.ratio(number).delete_suffix(".00")

      def percent(share) = English.percent(share)

      def number(value) = English.number(value)
    end
  end
end
