# frozen_string_literal: true

module Estrel
  class Ledger
    # The columns of the ledger's files, and how a name of the user's becomes a column name.
    #
    # Names from outside are prefixed, so an attribute called `state` never meets our own column of that name.
    module Layout
      # The form of the files; a ledger of another form is built anew. Until 8 a file may lack its only row, see
      # {OnePiece}; until 9 addresses and consents do not count for when somebody was first seen.
      FORM = 10
      # `device` is a number for the device an event came from, or null.
      EVENT_COLUMNS = {
        "profile_id" => Polars::Int64, "occurred_at" => Polars::Int64, "received_at" => Polars::Int64,
        "day" => Polars::Int32, "event_id" => Polars::Int64, "source_id" => Polars::Int32,
        "device" => Polars::Int64
      }.freeze
      PROFILE_COLUMNS = {
        "profile_id" => Polars::Int64, "profile_type" => Polars::String,
        "first_seen_at" => Polars::Int64, "first_seen_day" => Polars::Int32
      }.freeze
      HISTORY_COLUMNS = {
        "profile_id" => Polars::Int64, "attribute" => Polars::String, "occurred_at" => Polars::Int64,
        "received_at" => Polars::Int64, "value" => Polars::String
      }.freeze
      # What decides whether somebody can be reached over a channel: an address from some time on, or a word of consent
      # (`given` true) or withdrawal (false). Each row holds one of the two.
      REACH_COLUMNS = {
        "profile_id" => Polars::Int64, "channel" => Polars::String, "occurred_at" => Polars::Int64,
        "received_at" => Polars::Int64, "address" => Polars::String, "given" => Polars::Boolean
      }.freeze
      # To whom events belonged before people were found to be one: a row per event and owner it has had, from the day
      # it came to that owner (0 for the first) to the day it left; `profile_id` is the owner of today.
      ORIGIN_COLUMNS = {
        "profile_id" => Polars::Int64, "event_id" => Polars::Int64, "owner_id" => Polars::Int64,
        "since" => Polars::Int32, "until" => Polars::Int32
      }.freeze
      # Events that are read as another type than they were stored as, with the name of that.
      RENAMED_COLUMNS = { "event_id" => Polars::Int64, "stored_as" => Polars::String }.freeze
      # Above every profile id: the spine holds them in 32 bits.
      AFTER_ALL = (1 << 32) - 1
      # All profile ids.
      EVERYBODY = (0..(AFTER_ALL - 1))
      # The step of a combined (profile, day) key from one profile to the next; days until the year 2149 fit below.
      KEY_STEP = 1 << 16
      EVENT_ORDER = %w[profile_id occurred_at event_id].freeze
      HISTORY_ORDER = %w[profile_id attribute occurred_at].freeze
      REACH_ORDER = %w[profile_id channel occurred_at received_at].freeze
      STANDING = "standing:"
      private_constant :STANDING
      DTYPES = {
        "text" => Polars::String, "number" => Polars::Float64, "boolean" => Polars::Boolean, "time" => Polars::Int64,
        "date" => Polars::Int32, "list" => Polars::List.new(Polars::String)
      }.freeze

      module_function

      # @return [String] column of an event's property
      def property(name) = "property:#{name}"

      # @return [String] column of a profile's attribute
      def attribute(name) = "attribute:#{name}"

      # @param columns [Hash{String => Class}] Polars types
      # @return [Polars::DataFrame] without rows
      def empty(columns) = Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)

      # @return [String] column of what an attribute was when an event happened, as text
      def standing(name) = "#{STANDING}#{name}"

      # @param column [String]
      # @return [String, nil] name of the attribute, where it is such a column
      def standing_of(column) = (column.delete_prefix(STANDING) if column.start_with?(STANDING))

      # @return [String] column of a profile's identifier of one kind
      def identifier(kind) = "identifier:#{kind}"

      # The distinct (profile, day) pairs of sorted rows: repeats are dropped by looking at the row before.
      #
      # @param rows [Polars::DataFrame] with `profile_id` and `day`
      # @return [Polars::DataFrame] with the sorted column `key`
      def days(rows)
        profile = Polars.col("profile_id")
        day = Polars.col("day")
        fresh = ((profile != profile.shift(1)) | (day != day.shift(1))).fill_null(true)
        rows.lazy.filter(fresh).select([((profile.cast(Polars::Int64) * KEY_STEP) + day).alias("key")]).collect
      end

      # @param column [Polars::Expr] text as kept in the attribute history
      # @param type [String] one of {Catalogue::TYPES}
      # @return [Polars::Expr] the typed value
      def typed(column, type)
        case type
        when "boolean" then column == "true"
        when "date" then column.str.strptime(Polars::Date, "%Y-%m-%d", strict: false).cast(Polars::Int32)
        when "list" then column.str.json_decode(DTYPES.fetch("list"))
        else column.cast(DTYPES.fetch(type), strict: false)
        end
      end
    end
  end
end
