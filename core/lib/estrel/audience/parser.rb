# frozen_string_literal: true

module Estrel
  module Audience
    # Builds the frozen tree of clauses from a checked document and looks up every name in the catalogue.
    #
    # Collects all faults before it gives up, so that an editor can mark them all at once.
    class Parser
      # @param catalogue [Catalogue]
      # @param audiences [#call, nil] gives {AudienceSource::Found} for an audience's id; nil where there are none
      # @param policies [PolicySource, nil] where named lifecycle policies are found; nil where there are none
      def initialize(catalogue, audiences = nil, policies = nil)
        @policies = policies
        @catalogue = catalogue
        @faults = Faults.new
        @fields = FieldParser.new(@faults)
        @selections = SelectionParser.new(catalogue, @fields, @faults)
        @audiences = audiences
      end

      # @param json [Hash] from {Document#checked}
      # @return [Object] the root clause
      # @raise [Invalid]
      def parse(json)
        root = node(json, "")
        @faults.raise_if_any
        root
      end

      private

      def node(json, place)
        kind, body = json.first
        place = place.empty? ? kind : "#{place}.#{kind}"
        case kind
        when "all", "any"
          Clause::Group.new(kind, body.each_with_index.map { |child, index| node(child, "#{place}[#{index}]") })
        when "not" then Clause::Negation.new(node(body, place))
        else send(:"parse_#{kind}", body, place)
        end
      end

      def attribute_field(body, place)
        name = body["name"]
        @catalogue.attributes[name] ||
          @faults.add("#{place}.name", "no attribute \"#{name}\"", name, @catalogue.attributes.keys)
      end

      def parse_attribute(body, place)
        field = attribute_field(body, place) or return
        comparison = @fields.comparison(body, field, place)
        comparison && Clause::Attribute.new(field.name, comparison, ever: body["ever"] == true)
      end

      def parse_changed(body, place)
        field = attribute_field(body, place) or return
        window = @fields.window(body["window"], "#{place}.window") or return
        ends = %w[from to].filter_map do |name|
          body[name] && [name.to_sym, @fields.comparison(body[name], field, "#{place}.#{name}")]
        end
        Clause::Changed.new(field, window, **ends.to_h)
      end

      def parse_did(body, place)
        selection = @selections.read(body, place)
        window = @fields.window(body["window"], "#{place}.window")
        asked = body["measure"] ? measure(body, selection, place) : count(body, place)
        Clause::Did.new(selection: selection, window: window, **asked) if selection && window && asked
      end

      def count(body, place)
        found = @fields.count(body["count"], "#{place}.count")
        found && { count: found }
      end

      def measure(body, selection, place)
        return @faults.add(place, "either count or measure, not both") if body["count"]

        found = selection && @selections.measure(body["measure"], selection, "#{place}.measure")
        found && { measure: found }
      end

      def parse_first(body, place) = moment("first", body, place)

      def parse_last(body, place) = moment("last", body, place)

      def moment(kind, body, place)
        selection = @selections.read(body, place)
        window = @fields.window(body["window"], "#{place}.window")
        Clause::Moment.new(kind, selection, window) if selection && window
      end

      def parse_rhythm(body, place)
        selection = @selections.read(body, place) or return
        needed = body.fetch("in", body["last"])
        if needed > body["last"]
          return @faults.add("#{place}.in", "cannot be more than the #{body["last"]} #{body["each"]}s looked at")
        end

        Clause::Rhythm.new(selection: selection, times: body.fetch("times", 1), unit: body["each"],
                           periods: body["last"], needed: needed)
      end

      def parse_visit(body, place)
        selections = body["all"].each_with_index.map { |row, index| @selections.read(row, "#{place}.all[#{index}]") }
        window = @fields.window(body["window"], "#{place}.window")
        Clause::SameVisit.new(selections, window) if window && selections.all?
      end

      def parse_order(body, place)
        steps = body["steps"].each_with_index.map { |row, index| step(row, index, "#{place}.steps[#{index}]") }
        window = @fields.window(body["window"], "#{place}.window")
        absence = body["then_not"] ? absence(body["then_not"], "#{place}.then_not") : nil
        return if window.nil? || steps.any?(&:nil?) || (body["then_not"] && absence.nil?)

        Clause::Order.new(steps, window, absence: absence)
      end

      def step(row, index, place)
        link = Link.new(row)
        return @faults.add(place, "the first step follows nothing") if index.zero? && link.to_h.any?

        selection = @selections.read(row, place)
        selection && Clause::Order::Step.new(selection, link)
      end

      def absence(row, place)
        selection = @selections.read(row, place)
        selection && Clause::Order::Absence.new(selection, Link.micros(row["within"]), row["within"])
      end

      def parse_lifecycle(body, place)
        times = body.slice("on", "for_at_least_days", "entered_last_days")
        return @faults.add(place, "name only one of #{times.keys.join(" and ")}") if times.size > 1
        if body["from"] && (body["on"] || body["for_at_least_days"])
          return @faults.add("#{place}.from", "goes with the state now, and with entered_last_days")
        end

        on = body["on"] && @fields.day(body["on"], "#{place}.on")
        return if body["on"] && on.nil?
        if body["returned"] && body["for_at_least_days"]
          return @faults.add("#{place}.returned", "goes with the state now or on a date, and with entered_last_days")
        end

        policy = policy(body["policy"], "#{place}.policy") or return
        Clause::LifecycleState.new(body["is"], on: on, for_days: body["for_at_least_days"], from: body["from"],
                                               entered_days: body["entered_last_days"],
                                               returned: body["returned"] == true, **policy)
      end

      def policy(reference, place)
        found = @policies&.call(reference)
        return @faults.add(place, found.fault) if found&.fault
        return {} if reference.nil?

        if found
          { reference: reference, policy: found.policy,
            policy_name: found.name }
        else
          @faults.add(place, "names no policy")
        end
      end

      def parse_kind(body, _place) = Clause::Kind.new(body["is"])

      def parse_campaign(body, place)
        window = @fields.window(body["window"], "#{place}.window") or return
        return unless campaign_makes_sense?(body, place)

        bounds = body["share"] ? { "of" => "share", **body["share"] } : body["run"]
        Clause::Campaign.new(window: window, bounds: bounds && bounds_of(bounds),
                             **body.slice("was", "name", "channel", "last", "from", "within_days")
                                   .transform_keys(&:to_sym))
      end

      def bounds_of(json) = Clause::Campaign::Bounds.new(**json.transform_keys(&:to_sym))

      def campaign_makes_sense?(body, place)
        asked = body.slice("was", "run", "share").keys
        last = body["last"] && body["was"] && !Clause::Campaign::IN_A_ROW.include?(body["was"])
        event = @catalogue.messaging.event("received")
        fault = if asked.size != 1 then ["", "needs one of was, run and share"]
                elsif last then [".last", "goes with opened, clicked and ignored"]
                elsif body["within_days"] && body["was"] != "returned" then [".within_days", "goes with returned"]
                elsif !@catalogue.event_types.key?(event)
                  ["", "no messages are known: there is no event type \"#{event}\""]
                end
        fault.nil? || @faults.add("#{place}#{fault.first}", fault.last)
      end

      def parse_reachable(body, _place) = Clause::Reachable.new(body["by"])

      def parse_audience(body, place)
        found = @audiences&.call(body["id"]) or return @faults.add("#{place}.id",
                                                                   "no audience with the number #{body["id"]}")
        return @faults.add("#{place}.id", found.fault) if found.fault

        on = body["on"] && @fields.day(body["on"], "#{place}.on")
        Clause::Membership.new(body["id"], found.name, found.definition, on: on) if on || !body.key?("on")
      end
    end
  end
end
