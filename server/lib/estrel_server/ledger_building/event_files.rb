# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Writes the event files of a ledger piece by piece: adds what is new since the previous generation, and drops what
    # was somebody's who has become part of another, or has been erased.
    class EventFiles
      # What a written type amounts to; `firsts` has the first occurrence per profile.
      Summary = Struct.new(:type, :count, :oldest, :newest, :received, :first_received, :firsts)

      # @param types [Array<Estrel::Catalogue::EventType>]
      # @param changes [ProfileChanges] since then
      # @param new_events [NewEvents] since then
      # @param on_progress [Proc, nil]
      def initialize(types, changes, new_events, on_progress)
        @types = types
        @changes = changes
        @new_events = new_events
        @on_progress = on_progress
      end

      # @param writer [Estrel::Ledger::Writer]
      # @param piece [Integer]
      # @param previous [Estrel::Ledger::Readable, nil] what is known already of its people
      # @return [Array<Summary>] one for each type
      def write(writer, piece, previous)
        @previous = previous
        @touched = @changes.ids
        same_days = previous&.calendar&.time_zone == writer.time_zone
        frames = @types.to_h { |type| [type, frame(type, fresh(piece, type, writer), writer, same_days)] }
        put_spine(frames, writer, whole: @new_events.any_anew? || !same_days)
        frames.map { |type, frame| summary(type, frame) }
      end

      # @return [Hash{String => Object}] for the generation's facts: how visits are told apart
      def visits
        { "visit_gap" => Workspace.current.visit_gap, "system_types" => Estrel::Ledger::Spine.system_types(@types) }
      end

      private

      # What came since, and whose it is.
      def fresh(piece, type, writer)
        rows = @new_events.of(piece, type) or return
        @touched |= rows["profile_id"].unique.to_a if @previous
        writer.with_days(rows)
      end

      # The type's events of the new generation, written where they differ from the previous one's.
      def frame(type, fresh, writer, same_days)
        before = @new_events.anew?(type) ? nil : previous_events(type)
        old = conform(@changes.stay(before), type, writer, same_days) if before
        return old if before && old.equal?(before) && fresh.nil? && writer.carries?("events/#{type.id}")

        rows = fresh ? fresh.select(columns(type).keys) : empty(type)
        joined = Estrel::Ledger::Splice.insert(old || empty(type), rows)
        @on_progress&.call("writing #{type.name}: #{joined.height} events")
        writer.put_sorted_events(type.id, joined)
      end

      # The spine follows the type files: a few profiles are put in order anew, or all where anything else has changed.
      def put_spine(frames, writer, whole:)
        gap, system = visits.values
        whole ||= @previous.facts.values_at("visit_gap", "system_types") != [gap, system] || types_gone?
        @on_progress&.call("putting all events in order") if whole
        spine = if whole then Estrel::Ledger::Spine.of(frames, writer.calendar, gap)
                else Estrel::Ledger::Spine.renewed(@previous.spine, frames, @touched, writer.calendar, gap)
                end
        writer.put_spine(spine) unless writer.carries?("spine") && spine.equal?(@previous.spine)
      end

      def types_gone?
        before, now = [@previous.catalogue.event_types.values, @types].map { |types| types.map(&:id) }
        (before - now).any?
      end

      def empty(type) = Estrel::Ledger::Layout.empty(columns(type))

      def previous_events(type)
        @previous.events(type.name) if @previous&.catalogue&.event_types&.key?(type.name)
      end

      def columns(type) = NewEvents.columns(type, "day")

      # An older frame as it would be written today: properties first seen since are null, days are those of the zone.
      def conform(frame, type, writer, same_days)
        wanted = columns(type)
        missing = wanted.except(*frame.columns)
        return frame if missing.empty? && same_days && frame.columns == wanted.keys

        frame = writer.with_days(frame.drop("day")) unless same_days
        frame.with_columns(missing.map { |name, dtype| Polars.lit(nil).cast(dtype).alias(name) }).select(wanted.keys)
      end

      # Rows are sorted by profile and time, so a profile's first row is its first event.
      def summary(type, frame)
        profile = Polars.col("profile_id")
        firsts = frame.lazy.filter(profile.ne_missing(profile.shift(1)))
                      .select([profile, Polars.col("occurred_at").alias("first_seen_at")]).collect
        Summary.new(type, frame.height, frame["occurred_at"].min, frame["occurred_at"].max, frame["received_at"].max,
                    frame["received_at"].min, firsts)
      end
    end
  end
end
