# frozen_string_literal: true

module Estrel
  module Exports
    # What becomes of each member of an audience on the way to being exported: the first step that keeps somebody
    # back is the one that counts, so the steps add up to the audience.
    #
    # The steps, in order: no address; an address of a form that cannot be reached; consent withdrawn; messaged too
    # recently; listed as not to be contacted; the same address as another member, who is exported instead; in the
    # standing holdout over all marketing; in the holdout of the export. Without a channel nobody is messaged, so the
    # steps about addresses and consent exclude nobody.
    class Waterfall
      EXPORTED = "exported"
      STANDING_HOLDOUT = "standing_holdout"
      HOLDOUT = "holdout"
      EXCLUDED = (%w[no_address invalid_address consent_withdrawn messaged listed repeated] +
                 [STANDING_HOLDOUT, HOLDOUT]).freeze
      STEPS = [*EXCLUDED, EXPORTED].freeze

      # @param evaluator [Audience::Evaluator] as of the date of the run
      # @param members [Polars::Series] profile ids
      # @param suppression [Suppression]
      # @param standing [Holdout, nil] the one over all marketing
      # @param holdout [Holdout, Proc, nil] a proc is given the ids left and returns the holdout
      def initialize(evaluator, members, suppression, standing: nil, holdout: nil)
        @evaluator = evaluator
        @members = members.sort
        @suppression = suppression
        @standing = standing
        @holdout = holdout
      end

      # @return [Polars::DataFrame] one row per member, by profile: `profile_id`, `step` (of {STEPS}) and `address` (the
      #   newest that can be reached over the channel, or null)
      def frame = @frame ||= with_holdout(with_repeats(suppressed))

      # @return [Hash{String => Integer}] members per step, in order, after `audience`, all of them
      def counts
        found = frame["step"].to_a.tally
        { "audience" => frame.height, **STEPS.to_h { |step| [step, found.fetch(step, 0)] } }
      end

      # @param step [String] of {STEPS}
      # @return [Polars::Series] profile ids
      def ids(step) = frame.filter(Polars.col("step") == step)["profile_id"]

      # The newest addresses of some people that can be reached over the channel, members or not.
      #
      # @param ids [Polars::Series] profile ids
      # @return [Polars::DataFrame] `profile_id` and `address`
      def addresses_of(ids)
        addresses.select(%w[profile_id address]).filter(Polars.col("profile_id").is_in(ids))
      end

      private

      def channel = @suppression.channel

      # The first step that holds, of those that look at each person alone; null where none does.
      def suppressed
        people = @members.alias("profile_id").to_frame
        people = people.join(addresses, on: "profile_id", how: "left")
        masks = { "no_address" => no_address, "invalid_address" => invalid_address,
                  "consent_withdrawn" => Polars.col("withdrawn").fill_null(false),
                  "messaged" => Polars.col("profile_id").is_in(messaged),
                  "listed" => Polars.col("profile_id").is_in(listed) }
        step = masks.to_a.reverse.reduce(Polars.lit(nil).cast(Polars::String)) do |rest, (name, holds)|
          Polars.when(holds).then(Polars.lit(name)).otherwise(rest)
        end
        people.with_columns([step.alias("step")]).select(%w[profile_id step address]).sort("profile_id")
      end

      def no_address = channel ? Polars.col("known").fill_null(false).is_not : Polars.lit(false)

      def invalid_address
        return Polars.lit(false) if channel.nil? || channel == "push"

        Polars.col("address").is_null
      end

      # Per person: whether anything is known of the channel, the newest address that can be reached, and whether the
      # newest word about consent is a withdrawal.
      def addresses = @addresses ||= channel ? known_addresses : nobody

      def known_addresses
        reach = Reach.new(@evaluator.ledger, @evaluator.as_of)
        rows = reach.rows(channel)
        word = Polars.col("given").drop_nulls.last
        known = channel == "push" ? Polars.col("given").is_not_null.any : Polars.col("address").is_not_null.any
        rows.group_by("profile_id", maintain_order: true)
            .agg([known.alias("known"), (word == false).fill_null(false).alias("withdrawn")])
            .join(reach.newest_addresses(rows, channel), on: "profile_id", how: "left")
            .select(%w[profile_id known address withdrawn])
      end

      def nobody
        Polars::DataFrame.new({ "profile_id" => [], "known" => [], "address" => [], "withdrawn" => [] },
                              schema_overrides: { "profile_id" => Polars::Int64, "known" => Polars::Boolean,
                                                  "address" => Polars::String, "withdrawn" => Polars::Boolean })
      end

      def messaged
        rule = @suppression.messaged or return ids_of([])
        first = Calendar.number(@evaluator.as_of) - rule.days + 1
        last = Calendar.number(@evaluator.as_of)
        seen = rule.events.map do |type|
          @evaluator.events(type).filter(Polars.col("day").is_between(first, last))["profile_id"].unique
        end
        Polars.concat([*seen, ids_of(@suppression.exported)]).unique
      end

      # Who holds an address of a list: any the person ever had.
      def listed
        found = @suppression.lists.flat_map do |list|
          held(list.kind).filter_map { |id, value| id if list.digests.include?(Address.digest(list.kind, value)) }
        end
        ids_of(found.uniq)
      end

      def held(kind)
        members = @members.to_frame.rename({ @members.name => "profile_id" })
        rows = case kind
               when "email", "phone"
                 Reach.new(@evaluator.ledger, @evaluator.as_of).rows(kind == "phone" ? "sms" : kind)
                      .select([Polars.col("profile_id"), Polars.col("address").alias("value")])
               else identifiers(Ledger::Layout.identifier(kind))
               end
        rows.join(members, on: "profile_id", how: "semi").filter(Polars.col("value").is_not_null).rows
      end

      def identifiers(column)
        profiles = @evaluator.ledger.profiles
        profiles = nobody.rename({ "address" => column }) unless profiles.columns.include?(column)
        profiles.select([Polars.col("profile_id"), Polars.col(column).cast(Polars::String).alias("value")])
      end

      # The first of several with the same address, by profile, is exported.
      def with_repeats(rows)
        return rows unless channel

        left = rows.filter(Polars.col("step").is_null & Polars.col("address").is_not_null)
        seen = {}
        repeated = left.select(%w[profile_id address]).rows.filter_map do |id, address|
          normal = Address.normal(channel, address)
          seen.key?(normal) ? id : (seen[normal] = id) && nil
        end
        marked(rows, ids_of(repeated), "repeated")
      end

      def with_holdout(rows)
        rows = held_back(rows, @standing, STANDING_HOLDOUT)
        rows = held_back(rows, @holdout, HOLDOUT)
        rows.with_columns([Polars.col("step").fill_null(EXPORTED)])
      end

      def held_back(rows, holdout, step)
        left = rows.filter(Polars.col("step").is_null)["profile_id"]
        holdout = holdout.call(left) if holdout.respond_to?(:call)
        holdout ? marked(rows, left.filter(holdout.mask(left)), step) : rows
      end

      def marked(rows, ids, step)
        here = Polars.col("profile_id").is_in(ids) & Polars.col("step").is_null
        rows.with_columns([Polars.when(here).then(Polars.lit(step)).otherwise(Polars.col("step")).alias("step")])
      end

      def ids_of(list) = Polars::Series.new("profile_id", list, dtype: Polars::Int64)
    end
  end
end
