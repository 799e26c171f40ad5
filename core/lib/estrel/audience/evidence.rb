# frozen_string_literal: true

module Estrel
  module Audience
    # What a clause rests on for one person: one sentence of what was found, and the facts themselves.
    #
    # Given as `{found:, asked:, facts:, more:, nearness:}`: `asked` is what the clause wants instead, where that is a
    # number; a fact is `{what:, at:}`, an instant in microseconds and what
    # happened or held from then on; `more` facts were left out; `nearness` is left out where a clause is either
    # fulfilled or not.
    class Evidence
      MOST_FACTS = 5

      # @param evaluator [Evaluator] over the ledger's part of one person
      def initialize(evaluator)
        @evaluator = evaluator
      end

      # @param clause [Object]
      # @return [Hash{Symbol => Object}]
      def of(clause)
        case clause
        when Clause::Attribute then attribute(clause)
        when Clause::Changed then changed(clause)
        when Clause::Did then clause.measure ? measured(clause) : counted(clause)
        when Clause::Moment then moment(clause)
        when Clause::Rhythm then rhythm(clause)
        when Clause::SameVisit then same_visit(clause)
        when Clause::Order then OrderEvidence.new(@evaluator).of(clause)
        when Clause::LifecycleState then lifecycle(clause)
        when Clause::Reachable then reachable(clause)
        when Clause::Campaign then campaign(clause)
        when Clause::Kind then { found: "A #{@evaluator.kinds[0]}" }
        when Clause::Membership then { found: clause.on ? "As of #{Wording.date(clause.on)}" : nil }
        else {}
        end
      end

      # @param events [Array<Hash>] of {Selection#events_of}
      # @param property [String, nil] whose value is told
      # @return [Hash{Symbol => Object}] the newest of them as facts, and how many more there are
      def self.events(events, property: nil)
        facts = events.last(MOST_FACTS).reverse.map do |event|
          value = ", #{property} #{Wording.value(event[:value])}" if property
          { what: "#{Wording.done(event[:type])}#{value}", at: event[:at] }
        end
        { facts: facts, more: [events.size - MOST_FACTS, 0].max }
      end

      private

      def steps(field, type)
        rows = @evaluator.attribute_steps(field, type).rows(named: true)
        rows = rows.reject { |row| row["text"] == row["text_before"] }
        return rows unless type == "time"

        days = ->(text) { text && @evaluator.calendar.day_of(Integer(text)).iso8601 }
        rows.map { |row| row.merge("text" => days.call(row["text"]), "text_before" => days.call(row["text_before"])) }
      end

      def attribute(clause)
        rows = steps(clause.name, clause.comparison.type)
        newest = rows.last
        found = if rows.empty? then "#{clause.name} was never set"
                elsif clause.ever? then "#{clause.name} has had #{number(rows.size, "value")}"
                else "#{clause.name} is #{said(newest["text"])}"
                end
        told = clause.ever? ? rows.last(MOST_FACTS).reverse : [newest].compact
        facts = told.map { |row| { what: "#{clause.name} became #{said(row["text"])}", at: row["occurred_at"] } }
        { found: found, facts: facts }
      end

      def changed(clause)
        field = clause.field
        rows = steps(field.name, field.type)
        facts = rows.last(MOST_FACTS).reverse.map do |row|
          { what: "#{field.name} went from #{said(row["text_before"])} to #{said(row["text"])}",
            at: row["occurred_at"] }
        end
        { found: rows.empty? ? "#{field.name} was never set" : "#{field.name} has changed #{Wording.times(rows.size)}",
          facts: facts, more: [rows.size - MOST_FACTS, 0].max }
      end

      def said(text) = text.nil? ? "not set" : "“#{text}”"

      def number(count, word) = "#{Wording.number(count)} #{count == 1 ? word : "#{word}s"}"

      def counted(clause)
        events = clause.selection.events_of(@evaluator, clause.window)
        reached = reached(clause, events)
        { found: did(clause, reached), asked: clause.count.none? ? "never" : Wording.count(clause.count),
          nearness: near_count(reached, clause.count), **Evidence.events(events) }
      end

      # "ended a ride 3 times in the last 30 days", "has not ended a ride like that at any time"
      def did(clause, reached)
        like = clause.selection.where.empty? ? "" : " like that"
        window = Wording.window(clause.window)
        return "has not #{Wording.events(clause.selection, done: false)}#{like} #{window}" if reached.zero?

        how = if clause.count.unit == "events" then Wording.times(reached)
              elsif clause.count.unit == "days" then "on #{number(reached, "day")}"
              else "in #{number(reached, "visit")}"
              end
        "#{Wording.events(clause.selection)}#{like} #{how} #{window}"
      end

      def reached(clause, events)
        case clause.count.unit
        when "events" then events.size
        when "days" then events.map { |event| event[:day] }.uniq.size
        else
          rows = clause.selection.rows(@evaluator, clause.window, keyed: true)
          @evaluator.visits(clause.window).marked(rows)["visit"].n_unique
        end
      end

      def near_count(reached, count)
        return reached.fdiv(count.minimum) if reached < count.minimum

        count.maximum && reached > count.maximum ? (count.maximum + 1).fdiv(reached + 1) : 1.0
      end

      def measured(clause)
        measure = clause.measure
        events = clause.selection.events_of(@evaluator, clause.window, property: measure.property)
                       .reject { |event| event[:value].nil? }
        rows = clause.selection.rows(@evaluator, clause.window, property: measure.property)
        value = measure.taken(rows)["m"][0] || Measure::OF_NOTHING[measure.kind]
        asked = "#{Wording.comparison(measure.comparison.operator)} #{Wording.values(measure.comparison)}".strip
        told = value.nil? ? "not set" : Wording.value(rounded(value))
        { found: "#{Wording::MEASURES.fetch(measure.kind)} #{measure.property} #{told}", asked: asked,
          nearness: near_value(value, measure.comparison), **Evidence.events(events, property: measure.property) }
      end

      def rounded(value) = value.is_a?(Float) ? value.round(4) : value

      def near_value(value, comparison)
        wanted = comparison.value
        return 0.0 unless value.is_a?(Numeric) && wanted.is_a?(Numeric) && value.positive? && wanted.positive?

        [value, wanted].min.fdiv([value, wanted].max)
      end

      def moment(clause)
        events = clause.selection.events_of(@evaluator, Window.new)
        found = clause.kind == "first" ? events.first : events.last
        return { found: "never #{Wording.events(clause.selection)}", facts: [] } unless found

        day = Wording.date(Calendar.date(found[:day]))
        { found: "#{Wording.events(clause.selection)} for the #{clause.kind} time on #{day}",
          **Evidence.events([found]) }
      end

      def rhythm(clause)
        from, to = clause.range(@evaluator.as_of)
        events = clause.selection.events_of(@evaluator, Window.new(from: from, to: to))
        per_period = events.map { |event| clause.period_of(Calendar.date(event[:day])) }.tally
        kept = per_period.count { |_, times| times >= clause.times }
        { found: "#{Wording.events(clause.selection)} in #{kept} of #{clause.periods} #{clause.unit}s",
          asked: "in #{clause.needed}", nearness: kept.fdiv(clause.needed), **Evidence.events(events) }
      end

      def same_visit(clause)
        visits = Hash.new { |hash, start| hash[start] = [] }
        clause.selections.each_with_index do |selection, index|
          rows = @evaluator.visits(clause.window).marked(selection.rows(@evaluator, clause.window, keyed: true))
          rows["visit_start"].unique.to_a.each { |start| visits[start] << index }
        end
        start, best = visits.max_by { |visit, found| [found.size, visit] }
        wanted = clause.selections.size
        return { found: "nothing of it", nearness: 0.0 } unless start

        { found: "#{best.size} of #{wanted} in the best visit", nearness: best.size.fdiv(wanted),
          facts: [{ what: "a visit began", at: start }] }
      end

      def lifecycle(clause)
        date = [clause.on, @evaluator.as_of].compact.min
        row = @evaluator.states(date, clause.policy).rows(named: true).first
        return { found: "not one of those the policy is about", facts: [] } if row["state"].nil?
        return { found: "no activity by #{Wording.date(date)}", facts: [] } if row["last_day"].nil?

        last = Calendar.date(row["last_day"])
        { found: "#{row["state"]} on #{Wording.date(date)}, quiet for #{number(row["quiet_days"], "day")}",
          facts: [{ what: "last activity", at: @evaluator.calendar.start_of(last), day: true }] }
      end

      def reachable(clause)
        told = clause.channels.map { |channel| [channel, @evaluator.reach.mask(channel).any?] }
        facts = clause.channels.flat_map do |channel|
          @evaluator.reach.rows(channel).rows(named: true).last(MOST_FACTS).map { |row| reach_fact(channel, row) }
        end
        { found: told.map { |channel, yes| "#{"not " unless yes}by #{channel}" }.join(", "), facts: facts }
      end

      def campaign(clause)
        rows = clause.messages(@evaluator).rows(named: true)
        return { found: "no such message", facts: [] } if rows.empty?

        response = Campaigns::Response.of(clause.messages(@evaluator)).rows(named: true).first
        facts = rows.last(MOST_FACTS).reverse.map { |row| { what: message(row), at: row["occurred_at"] } }
        { found: "#{number(rows.size, "message")}, #{response["responded"]} responded to; runs: current " \
                 "#{response["current"]}, longest #{response["longest"]}, mean #{response["mean"].round(2)}",
          facts: facts, more: [rows.size - MOST_FACTS, 0].max }
      end

      def message(row)
        came = Campaigns::Messages::WHAT_CAME.select { |kind| row["#{kind}_at"] }
        "message of #{row["campaign"] || "no campaign"}: #{came.empty? ? "ignored" : came.join(", ")}"
      end

      def reach_fact(channel, row)
        what = if row["address"].nil? then "#{channel} consent #{row["given"] ? "given" : "withdrawn"}"
               else
                 "#{channel} address known#{" (not a valid one)" unless Reach.valid?(channel, row["address"])}"
               end
        { what: what, at: row["occurred_at"] }
      end
    end
  end
end
