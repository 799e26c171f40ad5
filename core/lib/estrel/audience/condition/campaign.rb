# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *campaign*: what somebody made of messages, see {Campaigns::Messages}: was sent, opened, clicked, ignored one
      # (or all of the last k), unsubscribed, was reactivated after one; or how long their response streaks are; or to
      # what share of messages there was a response. Messages are those of a campaign and a channel, received inside a
      # window, and by people who were in some state on the day before, where that is said. A message is ignored once it
      # is {Campaigns::Messages::SETTLED_DAYS} days old without a response; younger ones are passed over. Frozen.
      class Campaign < Condition
        WAS = %w[sent opened clicked ignored unsubscribed reactivated].freeze
        # Of which all of the last k can be asked.
        IN_A_ROW = %w[opened clicked ignored].freeze
        STREAKS = %w[current longest mean].freeze
        WITHIN_DAYS = 14

        # A number looked at, with what it must reach and stay below.
        Bounds = Struct.new(:of, :at_least, :less_than, keyword_init: true) do
          # @return [Polars::Expr]
          def expression
            column = Polars.col(of)
            [at_least && (column >= at_least), less_than && (column < less_than)].compact.reduce(:&)
          end

          def to_h = { "at_least" => at_least, "less_than" => less_than }.compact
        end

        def self.schema(_kind)
          states = Schema.list("uniqueItems" => true, "items" => Schema.reference("State"))
          name = Schema.reference("Name")
          streak = bounds_schema(1_000_000, "of" => { "enum" => STREAKS })
          without = %w[without_name without_channel].to_h { |key| [key, { "type" => "boolean" }] }
          Schema.object({ **without, "was" => { "enum" => WAS }, "streak" => streak,
                                     "share" => bounds_schema(1), "name" => name, "channel" => name,
                                     "last" => Schema.whole(1..1000), "from" => states,
                                     "within_days" => Schema.whole(1..36_500),
                                     "window" => Schema.reference("Window") })
        end

        def self.bounds_schema(most, of = {})
          bound = { "type" => "number", "minimum" => 0, "maximum" => most }
          Schema.object({ **of, "at_least" => bound, "less_than" => bound }, required: of.keys,
                                                                             "minProperties" => of.size + 1)
        end
        private_class_method :bounds_schema

        def self.read(body, place, reading, _kind)
          window = reading.fields.window(body["window"], "#{place}.window") or return
          return unless makes_sense?(body, place, reading)

          bounds = body["share"] ? { "of" => "share", **body["share"] } : body["streak"]
          new(window: window, bounds: bounds && Bounds.new(**bounds.transform_keys(&:to_sym)),
              **body.slice("was", "name", "channel", "last", "from", "within_days", "without_name", "without_channel")
                    .transform_keys(&:to_sym))
        end

        def self.makes_sense?(body, place, reading)
          asked = body.slice("was", "streak", "share").keys
          last = body["last"] && body["was"] && !IN_A_ROW.include?(body["was"])
          event = reading.catalogue.messaging.event("received")
          fault = if asked.size != 1 then ["", "choose what people did with the messages"]
                  elsif last then [".last", "“each of the last” works only with opened, clicked or ignored"]
                  elsif body["without_name"] && body["name"] then [".name", "messages have a campaign or none"]
                  elsif body["without_channel"] && body["channel"] then [".channel", "messages have a channel or none"]
                  elsif body["within_days"] && body["was"] != "reactivated"
                    [".within_days", "“within … days” works only with reactivated"]
                  elsif !reading.catalogue.event_types.key?(event)
                    ["", "no messages are known: there is no event type \"#{event}\""]
                  end
          fault.nil? || reading.fault("#{place}#{fault.first}", fault.last)
        end
        private_class_method :makes_sense?

        # @return [String, nil] of {WAS}
        attr_reader :was
        # @return [Bounds, nil] of a streak or of the share
        attr_reader :bounds
        # @return [String, nil]
        attr_reader :name, :channel
        # @return [Boolean] whether only messages without a campaign, or without a channel, are looked at
        attr_reader :without_name, :without_channel
        # @return [Integer, nil] how many of the newest messages are looked at
        attr_reader :last
        # @return [Window]
        attr_reader :window
        # @return [Array<String>, nil] states before the message
        attr_reader :from
        # @return [Integer] days in which somebody was reactivated, the day of the message being the first
        attr_reader :within_days

        def initialize(window:, was: nil, bounds: nil, name: nil, channel: nil, last: nil, from: nil, within_days: nil,
                       without_name: false, without_channel: false)
          @was = was
          @bounds = bounds&.freeze
          @name = name
          @channel = channel
          @last = last
          @window = window
          @from = from && (Lifecycle::STATES & from).freeze
          @within_days = within_days || WITHIN_DAYS
          @without_name = without_name
          @without_channel = without_channel
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          found = messages(evaluator)
          people = bounds ? Campaigns::Streaks.of(found).filter(bounds.expression) : fitting(found)
          evaluator.membership(people["profile_id"])
        end

        # @param evaluator [Evaluator]
        # @return [Polars::DataFrame] the messages that are looked at, see {Campaigns::Messages#all}
        def messages(evaluator)
          all = Campaigns::Messages.new(evaluator)
          seen = window.relative? ? all.all.join(evaluator.first_seen, on: "profile_id") : all.all
          found = seen.filter(window.expression(evaluator.as_of, evaluator.calendar))
          found = found.filter(Polars.col("young").is_not) if was == "ignored"
          found = of(found, "campaign", name, without_name)
          found = of(found, "channel", channel, without_channel)
          found = all.with_states(found) if from || was == "reactivated"
          found = found.filter(Polars.col("state").is_in(from).fill_null(false)) if from
          last ? newest(found) : found
        end

        # @return [Hash] plain JSON
        def to_h
          looked_at = if was then { "was" => was }
                      elsif bounds.of == "share" then { "share" => bounds.to_h }
                      else { "streak" => { "of" => bounds.of, **bounds.to_h } }
                      end
          within = was == "reactivated" ? { "within_days" => within_days } : {}
          { "campaign" => { **looked_at, "name" => name, "channel" => channel,
                                         "without_name" => without_name || nil,
                                         "without_channel" => without_channel || nil, "last" => last, "from" => from,
                                         **within, "window" => window.to_h }.compact }
        end

        def parts(words)
          said = CampaignWording.new(self, words.names)
          from = said.from && words.part(said.from, "state", "campaign", "campaign")
          [words.plain(said.opening), words.part(said.asked, "what", "campaign", "campaign"), *[from].compact,
           words.window(window, "campaign")]
        end

        def evidence(evaluator)
          found = messages(evaluator)
          rows = found.rows(named: true)
          return { found: "no such message", facts: [] } if rows.empty?

          streaks = Campaigns::Streaks.of(found).rows(named: true).first
          { found: "#{Facts.number(rows.size, "message")}, #{streaks["responded"]} responded to; streaks: current " \
                   "#{streaks["current"]}, longest #{streaks["longest"]}, mean #{streaks["mean"].round(2)}",
            facts: rows.last(Facts::MOST).reverse.map { |row| { what: told(row), at: row["occurred_at"] } },
            more: [rows.size - Facts::MOST, 0].max }
        end

        private

        # Those with a value, or those without any.
        def of(messages, column, value, without)
          return messages.filter(Polars.col(column).is_null) if without

          value ? messages.filter(Polars.col(column) == value) : messages
        end

        # The last k messages of whom has had so many.
        def newest(found)
          found.group_by("profile_id", maintain_order: true).tail(last)
               .filter(Polars.len.over("profile_id") == last)
        end

        # Who fits by one of the messages, or by all of the last.
        def fitting(found)
          return found if was == "sent"
          return found.filter(came) unless last

          found.lazy.group_by("profile_id").agg([came.all.alias("all")]).filter(Polars.col("all")).collect
        end

        def came
          case was
          when "opened", "clicked", "unsubscribed" then Polars.col("#{was}_at").is_not_null
          when "ignored" then Polars.col("responded").is_not
          else
            Polars.col("inactive") & ((Polars.col("back_day") - Polars.col("day")) < within_days).fill_null(false)
          end
        end

        def told(row)
          what = Campaigns::Messages::WHAT_CAME.select { |kind| row["#{kind}_at"] }
          "message of #{row["campaign"] || "no campaign"}: #{what.empty? ? "ignored" : what.join(", ")}"
        end
      end
    end
  end
end
