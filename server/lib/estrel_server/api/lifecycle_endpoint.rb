# frozen_string_literal: true

module EstrelServer
  module API
    # The state of the base, how it moves, who is active, which thresholds are right, and how the past has changed
    # since.
    class LifecycleEndpoint < Endpoint
      DEFAULT_DAYS = 365
      # Weeks a backtest or a restatement goes back at most.
      MOST_WEEKS = 520
      # Weeks a restatement goes back where nothing else is asked.
      RESTATED_WEEKS = 26
      TOP = Estrel::Audience::Breakdown::TOP

      get("/base", role: "viewer", scope: "read", personal: "none") do
        base = Estrel::Lifecycle::Base.new(lifecycle, from: from, to: to, today: today, unit: unit,
                                                      behind: one_of("behind", Estrel::Lifecycle::Base::BEHIND)).to_h
        respond(base.merge(policy: policy_record.id))
      end

      # Groups beside each other: the audiences of the tray, or the values of something people are split by.
      get("/base/groups", role: "viewer", scope: "read", personal: "none") do
        steps = Estrel::Lifecycle::Steps.covering(unit, from, to)
        compared = Estrel::Lifecycle::Compared.new(lifecycle, steps, today)
        rows = groupings.flat_map do |grouping, told|
          compared.rows(grouping).map do |row|
            { **told.call(row.label), **row.to_h.except(:label) }
          end
        end
        respond({ from: steps.dates.first + 1, to: to, step: unit, periods: steps.periods(today), rows: rows })
      end

      # From which state to which between any two dates.
      get("/base/movement", role: "viewer", scope: "read", personal: "none") do
        steps = Estrel::Lifecycle::Steps.between(day(params["from"], "from"), to)
        everybody = Estrel::Lifecycle::Grouping.everybody(lifecycle.ledger)
        respond({ from: steps.dates.first, to: to, complete: to < today,
                  **lifecycle.movements(steps, everybody).first.first.to_h })
      end

      get("/base/activity", role: "viewer", scope: "read", personal: "none") do
        study = Estrel::Lifecycle::ActivityStudy.new(lifecycle, from: from, to: to, today: today, unit: unit)
        respond(study.to_h)
      end

      get("/base/thresholds", role: "viewer", scope: "read", personal: "none") do
        shares = { share: share("share", 0.1), dormant_share: share("dormant_share", 0.5) }
        study = Estrel::Lifecycle::ThresholdStudy.new(tried, to, horizon: whole("horizon", 90, 1..3650), **shares)
        told = study.to_h(groupings.map(&:first))
        labels = groupings.flat_map { |grouping, label| grouping.labels.map(&label) }
        groups = told[:groups].zip(labels).map { |group, label| { **group.except(:label), **label } }
        respond({ **told, groups: groups })
      end

      # At each past week's end: who was called churned, and how many of them came back.
      get("/base/backtest", role: "viewer", scope: "read", personal: "none") do
        weeks = whole("weeks", 52, 1..MOST_WEEKS)
        last = to - (to.cwday % 7)
        steps = Estrel::Lifecycle::Steps.covering("week", last - (7 * weeks) + 1, last)
        rows = Estrel::Lifecycle::Backtest.new(tried, to).rows(steps)
        respond({ as_of: to, churned_after: tried.policy.churned_after, rows: rows.map(&:to_h),
                  takeaway: Estrel::Lifecycle::Backtest.takeaway(rows) })
      end

      get("/base/restated", role: "viewer", scope: "read", personal: "none") do
        restated = Restated.new(asked, policy_record)
        rows = restated.rows(params["from"] ? day(params["from"], "from") : to - (7 * RESTATED_WEEKS), to)
        sources = Estrel::Lifecycle::KnownThen.new(lifecycle).sources(rows.empty? ? to : rows.first.date - 6, to)
        changes = restated.past.changes.map { |change| { at: instant(change[:at]), what: change[:what] } }
        respond({ as_of: to, first_received: restated.first_received, rows: rows.map { |row| described(row) },
                  sources: sources, changes: changes, takeaway: Estrel::Lifecycle::Restatement.takeaway(rows) })
      end

      get("/people/:id/lifecycle", role: "viewer", scope: "read", personal: "none") do
        person = Person.new(path_id, asked)
        raise Problem.new(409, no_policy) unless policy

        respond(PersonLifecycle.new(person.profile.id, asked).to_h)
      end

      private

      def asked = @asked ||= question

      def to = asked.as_of

      def unit = one_of("step", Estrel::Lifecycle::Steps::UNITS) || "day"

      def from
        return day(params["from"], "from") if params["from"]

        oldest = [generation.oldest_day || to, to].min
        [to - DEFAULT_DAYS + 1, oldest].max
      end

      def lifecycle
        raise Problem.new(409, no_policy) unless policy

        @lifecycle ||= asked.lifecycle
      end

      # The lifecycle with other day counts, where some are to be tried.
      def tried
        raise Problem.new(409, no_policy) unless policy

        days = %w[new_for active_within churned_after].to_h do |name|
          [name.to_sym, whole(name, policy.public_send(name), 1..3650)]
        end
        @tried ||= Estrel::Lifecycle.new(lifecycle.ledger, policy.with(**days))
      end

      def share(name, default)
        text = params[name] or return default
        number = Float(text, exception: false)
        return number if number&.between?(0.001, 0.999)

        raise Problem.new(422, "#{name} must be a share such as 0.1")
      end

      def evaluator = @evaluator ||= asked.whole.within_policy

      # Each grouping asked for, with what tells a group of it: the audience's number, or the value and its clause.
      def groupings = @groupings ||= params["by"] ? [split_grouping] : tray.map { |one| audience_grouping(*one) }

      def audience_grouping(id, definition)
        told = ->(label) { { id: label, kind: "audience", value: nil, clause: { audience: { id: label } } } }
        [evaluator.group(definition, id), told]
      end

      def split_grouping
        split = Estrel::Audience::Split.parse(by, generation.catalogue)
        grouping = evaluator.groups(split, top: whole("top", TOP, 1..100))
        named = grouping.labels.filter_map { |kind, value| value if kind == :value }
        [grouping, ->((kind, value)) { { id: nil, **split.group(kind, value&.to_s, named) } }]
      end

      def by
        json = JSON.parse(params["by"])
        json.is_a?(Hash) && json.size == 1 ? json : raise(JSON::ParserError)
      rescue JSON::ParserError
        raise Problem.new(422, "by is an object such as {\"attribute\": \"plan\"}")
      end

      def described(row)
        { **row.to_h, moved: row.moved, most_moved: row.most_moved, hint: row.hint }
      end
    end
  end
end
