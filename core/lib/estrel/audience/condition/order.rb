# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *order*: steps that follow each other, each later than the one before, linked as it says, all of them within
      # some time where wanted; and maybe what was then not done within some time. Events at the same instant do not
      # follow each other. A step with a window of its own lies in that one instead of the order's. Frozen.
      #
      # Of all events that can be the step before, the latest is the best one to go on from: it is the nearest in time
      # and in the same visit if any is, and none has a later first step. So one look back per event finds out whether
      # it can be reached.
      class Order < Condition
        extend Parsing

        # One step: what happened, and the {Link} from the step before; `first` where the first step has to be the first
        # of its kind in the window; `window` where it has one of its own.
        Step = Struct.new(:selection, :link, :first, :window) do
          def to_h
            { **selection.to_h, **link.to_h, "first" => first || nil, "window" => window&.to_h }.compact
          end
        end
        # What must not follow: a selection and the time within which, microseconds and as written.
        Absence = Struct.new(:selection, :within, :written) do
          def to_h = { **selection.to_h, "within" => written }
        end

        def self.schema(_kind)
          within = Schema.reference("Within")
          flags = %w[next same_visit other_day first].to_h { |key| [key, { "type" => "boolean" }] }
          link = { "after" => within, "within" => within, **flags, "among" => Schema::SELECTION.fetch("events") }
          step = { **Schema::SELECTION, **link, "window" => Schema.reference("Window") }
          steps = Schema.list("maxItems" => 20, "items" => Schema.object(step))
          absence = Schema.object({ **Schema::SELECTION, "within" => within }, required: %w[within])
          Schema.object({ "steps" => steps, "window" => Schema.reference("Window"), "within" => within,
                          "then_not" => absence }, required: %w[steps])
        end

        # @return [Array<Step>]
        attr_reader :steps
        # @return [Window]
        attr_reader :window
        # @return [Absence, nil]
        attr_reader :absence
        # @return [Hash, nil] such as `{"days" => 14}`, from the first step to the last at most
        attr_reader :within

        def initialize(steps, window, absence: nil, within: nil)
          @steps = steps.freeze
          @window = window
          @absence = absence
          @within = within&.dup&.freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          profile = Polars.col("profile_id")
          once = done(evaluator).select("profile_id").filter(profile.ne_missing(profile.shift(1))).collect
          evaluator.membership(once["profile_id"])
        end

        # @param evaluator [Evaluator]
        # @param first [Polars::DataFrame] events that may be the first step
        # @return [Array<Polars::DataFrame>] for each step the events that can be it, with `before_at`, the latest
        #   instant at which the step before can have been, and `start_at` likewise of the first, where all have to be
        #   within some time
        def reached_steps(evaluator, first = candidates(0, evaluator))
          found = [first]
          (1...steps.size).each { |number| found << after(found.last, number, evaluator).collect }
          found
        end

        # Those who have done the steps and not yet what must not follow, while there is still time for it.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def undecided(evaluator)
          return evaluator.constant(false) unless absence

          ends = unfollowed(last_step(evaluator).select(Selection::COLUMNS).collect, evaluator)
          open = ends.filter(Polars.col("occurred_at") >= waited_since(evaluator))
          evaluator.membership(open["profile_id"]) & evaluator.invert(mask(evaluator))
        end

        # @return [Hash] plain JSON
        def to_h
          { "order" => { "steps" => steps.map(&:to_h), "window" => window.to_h, "within" => within,
                         "then_not" => absence&.to_h }.compact }
        end

        def parts(words)
          said = steps.each_with_index.flat_map do |step, index|
            path = "order.steps[#{index}]"
            [*(joint(step.link, path, words) if index.positive?), *words.beside(step.selection, path),
             *([words.window(step.window, path)] if step.window)]
          end
          opening = steps.first.first ? "who for the first time" : "who"
          [words.plain(opening), *said, *total_part(words), words.window(window, "order"), *absence_parts(words)]
        end

        # Whether any later event goes on, however much later.
        def free? = !within && !absence && steps.none? { |step| step.first || step.window || step.link.to_h.any? }

        # The events that could be a step, with what its link and that of the next one ask about them.
        #
        # @param number [Integer] of the step
        # @param evaluator [Evaluator]
        # @return [Polars::DataFrame]
        def candidates(number, evaluator)
          step, following = steps[number, 2]
          beside = [*step.link.beside, *("visit_start" if following&.link&.same_visit)].uniq
          found = step.selection.rows(evaluator, read_window(evaluator), keyed: true, beside: beside)
          found = inside(found, step.window || window, evaluator) if steps.any?(&:window)
          found = firsts(found) if step.first
          found = found.with_columns([Polars.col("occurred_at").alias("start_at")]) if within && number.zero?
          step.link.prepared(found, first_day(evaluator), evaluator)
        end

        # How far one person has come through the steps, and what followed.
        def evidence(evaluator)
          done = reached_steps(evaluator).take_while { |rows| rows.height.positive? }
          told = { found: "#{done.size} of #{steps.size} steps", facts: newest(done, evaluator.names),
                   nearness: done.size.fdiv(steps.size) }
          return told unless done.size == steps.size && absence

          { **told, found: "#{told[:found]}; #{waited(evaluator)}", nearness: 0.9 }
        end

        def costly? = true

        def awaiting = absence ? [self] : []

        private

        # Where steps have windows of their own, all are read from the first day of any: what lies between two steps
        # counts too, whatever window it lies in.
        def read_window(evaluator)
          steps.any?(&:window) ? Window.new(from: first_day(evaluator)) : window
        end

        def inside(rows, window, evaluator)
          seen = window.relative? ? rows.join(evaluator.first_seen, on: "profile_id", how: "left") : rows
          seen.filter(window.expression(evaluator.as_of, evaluator.calendar)).select(rows.columns)
        end

        # No step lies before this day; nil where any may.
        def first_day(evaluator)
          days = [window, *steps.filter_map(&:window)].map { |one| one.first_day(evaluator.as_of) }
          days.include?(nil) ? nil : days.min
        end

        # Rows of everybody who has come through all steps, and has not done what must not follow.
        def done(evaluator)
          if absence
            ends = unfollowed(last_step(evaluator).select(Selection::COLUMNS).collect, evaluator)
            return ends.lazy.filter(Polars.col("occurred_at") < waited_since(evaluator))
          end

          last = steps.size - 1
          before = reached(last - 1, evaluator)
          return before if last.zero?
          return after(before.collect, last, evaluator) if within

          steps.last.link.met(before.collect, candidates(last, evaluator), evaluator)
        end

        # The events that can be the last step.
        def last_step(evaluator) = reached(steps.size - 1, evaluator)

        # The events that can be a step.
        def reached(last, evaluator)
          (1..last).reduce(candidates(0, evaluator).lazy) { |done, number| after(done.collect, number, evaluator) }
        end

        def after(done, number, evaluator)
          found = steps[number].link.following(done, candidates(number, evaluator), evaluator)
          return found unless within

          found.filter((Polars.col("occurred_at") - Polars.col("start_at")) <= Link.micros(within))
        end

        # All that lies at the first instant of each person.
        def firsts(rows)
          profile, at = %w[profile_id occurred_at].map { |name| Polars.col(name) }
          first = Polars.when(profile.ne_missing(profile.shift(1))).then(at).otherwise(nil).forward_fill
          rows.filter(at == first)
        end

        # Without the ends that were followed by what must not follow, within the time and by the as-of date.
        def unfollowed(ends, evaluator)
          followers = absence.selection.rows(evaluator, Window.new)
                             .select(%w[profile_id
                                        occurred_at]).with_columns([Polars.col("occurred_at").alias("next_at")])
          wanted = ends.with_columns([(Polars.col("occurred_at") + 1).alias("look")]).sort(%w[profile_id look])
          joined = wanted.join_asof(followers, left_on: "look", right_on: "occurred_at", by: "profile_id",
                                               strategy: "forward")
          late = Polars.col("next_at") > Polars.col("occurred_at") + absence.within
          joined.filter(Polars.col("next_at").is_null | late)
        end

        # The time to wait has passed for ends before this instant.
        def waited_since(evaluator) = evaluator.calendar.end_of(evaluator.as_of) - absence.within

        def joint(link, path, words)
          said = [(following(link, words) if link.next), apart(link), ("in the same visit" if link.same_visit),
                  ("on another day" if link.other_day)].compact
          [words.plain("and"),
           words.part(said.empty? ? "then" : "then #{said.join(" ")}", "when", "link", path)]
        end

        # "more than 7 days later and within 14 days"
        def apart(link)
          said = { "more than %s later" => link.after, "within %s" => link.within }.compact
          said.map { |form, time| format(form, English.within(time)) }.join(" and ") if said.any?
        end

        def following(link, words)
          return "as the very next event" unless link.among

          "as the next of #{English.list(link.among.events.map do |name|
            English.quoted(words.names.event(name))
          end, "and")}"
        end

        def total_part(words)
          within ? [words.part("all within #{English.within(within)}", "when", "total", "order.within")] : []
        end

        def absence_parts(words)
          return [] unless absence

          path = "order.then_not"
          [words.plain("but have not"), words.events(absence.selection, path, done: false),
           *words.conditions(absence.selection, path),
           words.part("within #{English.within(absence.written)}", "when", "within", path)]
        end

        # The newest event that is the last step reached, and before it the newest of each step before, the last first.
        def newest(done, names)
          before = nil
          (done.size - 1).downto(0).map do |index|
            rows = done[index]
            rows = rows.filter(Polars.col("occurred_at") < before) if before
            before = rows["occurred_at"].max
            { what: "step #{index + 1}: #{names.events(steps[index].selection.events)}", at: before }
          end
        end

        def waited(evaluator)
          return "waiting time has not ended" if undecided(evaluator).any?

          mask(evaluator).any? ? "not followed in time" : "followed each time"
        end
      end
    end
  end
end
