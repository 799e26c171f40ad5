# frozen_string_literal: true

module Estrel
  module Campaigns
    # Every message somebody received by the end of the as-of date, and what came of it by then.
    #
    # An opening, click or unsubscription belongs to the latest message of the same campaign that the person had
    # received before it (or at the same instant); one without a campaign to the latest message without one. A person
    # *responded* to a message by opening it or by following a link in it.
    class Messages
      TEXT = Polars::String
      # Also the order in which a person's messages follow each other.
      ORDER = %w[profile_id occurred_at campaign channel].freeze
      WHAT_CAME = %w[opened clicked unsubscribed].freeze
      # Calendar days after that of a message until it is known whether there is a response to it.
      SETTLED_DAYS = 3
      # In place of the campaign where a message has none.
      NO_CAMPAIGN = "\0"
      private_constant :NO_CAMPAIGN

      # @param as_of [Date]
      # @return [Date] the last day of whose messages it is known who responded
      def self.settled(as_of) = as_of - SETTLED_DAYS

      # @param evaluator [Audience::Evaluator]
      def initialize(evaluator)
        @evaluator = evaluator
        @messaging = evaluator.catalogue.messaging
      end

      # @return [Polars::DataFrame] one row per message, in {ORDER}: `profile_id`, `occurred_at`, `day`, `campaign`,
      #   `channel`, `opened_at`, `clicked_at`, `unsubscribed_at` (instants or null), `responded` (boolean), and whether
      #   it is too `young` to say that nobody will respond
      def all = @evaluator.remembered([:messages]) { compute }

      # Messages that could not be delivered.
      #
      # @return [Polars::DataFrame] as {#all} up to `channel`
      def bounced = rows("bounced")

      # @param messages [Polars::DataFrame] of {#all}
      # @return [Polars::DataFrame] with `state`, the person's at the end of the day before the message (null for whom
      #   the default rule set is not about), `inactive`, whether she was dormant or churned until the instant of the
      #   message, and `back_day`, the first day of activity from that instant on (or null)
      # @raise [Error] without a rule set
      def with_states(messages)
        moments = Lifecycle::Moments.new(@evaluator.lifecycle)
        rows = messages.select(%w[profile_id day occurred_at])
        rows = rows.hstack(moments.around(rows.select(%w[profile_id day])).select(%w[state next_day]))
        rows = rows.hstack(on_the_day(rows))
        rows = rows.hstack([later(rows, moments)])
        messages.hstack(rows.select([Polars.col("state"), inactive, back_day]))
      end

      private

      # The first and the last activity on the day of each message, or null. Activity stands by person and time, so
      # they are found by halving.
      def on_the_day(rows)
        key = (Polars.col("profile_id").cast(Polars::Int64) * Ledger::Layout::KEY_STEP) + Polars.col("day")
        asked = rows.select([key.alias("key")])
        found = @evaluator.lifecycle.activity_rows(%w[profile_id day occurred_at]).map do |frame|
          ends(asked, frame.select([key.alias("key")])["key"], frame["occurred_at"])
        end
        return found.first if found.one?

        firsts, lasts = %w[first last].map { |name| found.each_with_index.map { |one, at| one[name].alias(at.to_s) } }
        Polars::DataFrame.new([Polars::DataFrame.new(firsts).select([Polars.min_horizontal("*").alias("first")])["first"],
                               Polars::DataFrame.new(lasts).select([Polars.max_horizontal("*").alias("last")])["last"]])
      end

      # Where a key has no rows, both ends of where these would be are the same.
      def ends(asked, keys, instants)
        sorted = Polars.lit(keys.rechunk)
        places = asked.select(%w[left right].map do |side|
          sorted.search_sorted(Polars.col("key"), side: side).cast(Polars::Int64).alias(side)
        end)
        any = Polars.when(Polars.col("left") < Polars.col("right"))
        index = places.select([any.then(Polars.col("left")).otherwise(nil).alias("first"),
                               any.then(Polars.col("right") - 1).otherwise(nil).alias("last")])
        at = instants.to_frame("at")
        Polars::DataFrame.new(index.columns.map do |name|
          at.select([Polars.col("at").gather(index[name])])["at"].alias(name)
        end)
      end

      # The first day of activity after that of each message whose day has none from its instant on.
      def later(rows, moments)
        late = (Polars.col("next_day") == Polars.col("day")) & (Polars.col("last") < Polars.col("occurred_at"))
        rows = rows.select([Polars.col("profile_id"), Polars.col("day"), late.fill_null(false).alias("late")])
                   .with_row_index(name: "row")
        few = rows.filter(Polars.col("late"))
        next_days = moments.around(few.select([Polars.col("profile_id"), Polars.col("day") + 1]))["next_day"]
        found = few.select(["row"]).hstack([next_days.alias("later")])
        rows.select(["row"]).join(found, on: "row", how: "left")["later"]
      end

      def inactive
        early = (Polars.col("first") < Polars.col("occurred_at")).fill_null(false)
        (Polars.col("state").is_in(%w[dormant churned]).fill_null(false) & early.is_not).alias("inactive")
      end

      # On the day itself only what came after the message.
      def back_day
        after = (Polars.col("last") >= Polars.col("occurred_at")).fill_null(false)
        day = Polars.when(after | (Polars.col("next_day") != Polars.col("day"))).then(Polars.col("next_day"))
                    .otherwise(Polars.col("later"))
        Polars.when(day <= Calendar.number(@evaluator.as_of)).then(day).otherwise(nil).alias("back_day")
      end

      def compute
        sent = rows("received").with_row_index(name: "row")
        came = WHAT_CAME.reduce(sent) do |found, kind|
          found.join(firsts(kind, sent), on: "row", how: "left")
        end
        responded = Messaging::RESPONSES.map { |kind| Polars.col("#{kind}_at").is_not_null }.reduce(:|)
        young = responded.is_not & (Polars.col("day") > Calendar.number(Messages.settled(@evaluator.as_of)))
        came.sort("row").drop("row").with_columns([responded.alias("responded"), young.alias("young")])
      end

      # The first of a kind of event of each message.
      def firsts(kind, sent)
        campaign = Polars.col("campaign").fill_null(NO_CAMPAIGN)
        events = rows(kind).select([*%w[profile_id occurred_at].map { |name| Polars.col(name) }, campaign])
        messages = sent.select([*%w[row profile_id occurred_at].map { |name| Polars.col(name) }, campaign])
        found = events.sort("occurred_at").with_columns([Polars.col("occurred_at").alias("at")])
                      .join_asof(messages.sort(%w[occurred_at row]), on: "occurred_at", by: %w[profile_id campaign],
                                                                     strategy: "backward")
        found.filter(Polars.col("row").is_not_null).group_by("row").agg([Polars.col("at").min.alias("#{kind}_at")])
      end

      def rows(kind)
        type = @evaluator.catalogue.event_types[@messaging.event(kind)]
        return none if type.nil?

        last = Calendar.number(@evaluator.as_of)
        names = { "campaign" => @messaging.campaign, "channel" => @messaging.channel }
        texts = names.map { |name, property| text(type, property).alias(name) }
        ordered(@evaluator.events(type.name).lazy.filter(Polars.col("day") <= last)
                          .select([*%w[profile_id occurred_at day].map { |name| Polars.col(name) }, *texts]).collect)
      end

      # Events come by profile and time, so only such as fell on one instant may have to change places.
      def ordered(rows)
        again = %w[profile_id occurred_at].map { |name| Polars.col(name) == Polars.col(name).shift(1) }.reduce(:&)
        rows.select([again.any.alias("tied")])["tied"][0] ? rows.sort(ORDER) : rows
      end

      def text(type, property)
        return Polars.lit(nil).cast(TEXT) unless type.properties.key?(property)

        Polars.col(Ledger::Layout.property(property)).cast(TEXT)
      end

      def none
        schema = Ledger::Layout::EVENT_COLUMNS.slice("profile_id", "occurred_at", "day")
                                              .merge("campaign" => TEXT, "channel" => TEXT)
        Ledger::Layout.empty(schema)
      end
    end
  end
end
