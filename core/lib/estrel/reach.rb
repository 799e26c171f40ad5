# frozen_string_literal: true

module Estrel
  # Who can be reached over a channel at the end of a date.
  #
  # By e-mail and SMS: an address of the right form, spaces around it left out, has been set, and the newest word
  # about consent, if there is any, is no withdrawal. By push: the newest word is consent, since giving it is what
  # makes the device known.
  class Reach
    CHANNELS = %w[email sms push].freeze
    # Something before an @, and a domain with a dot; as wide as mail systems are.
    EMAIL = '^[^@\s"(),:;<>\[\]]+@[^@\s."(),:;<>\[\]]+(\.[^@\s."(),:;<>\[\]]+)+$'
    # Digits in the international form, with the usual separators.
    PHONE = '^\+?[0-9][0-9 ().\-/]{5,24}$'
    FORMS = { "email" => EMAIL, "sms" => PHONE }.freeze
    private_constant :FORMS

    # @param ledger [Ledger::Readable]
    # @param date [Date]
    def initialize(ledger, date)
      @ledger = ledger
      @after = ledger.calendar.end_of(date)
      @date = date
    end

    # @param channel [String] of {CHANNELS}
    # @return [Polars::Series] booleans over the ledger's profiles
    def mask(channel)
      @ledger.cache.fetch([:reach, channel, @date]) do
        fitting = if FORMS.key?(channel)
                    addressed(channel).join(refused(channel), on: "profile_id", how: "anti")
                  else
                    agreed(channel)
                  end
        @ledger.ids.is_in(fitting["profile_id"])
      end
    end

    # @param channel [String] of {CHANNELS}
    # @return [Polars::DataFrame] the channel's rows of {Ledger::Layout::REACH_COLUMNS} up to the date's end, in order
    def rows(channel)
      @ledger.reach.filter((Polars.col("channel") == channel) & (Polars.col("occurred_at") < @after))
    end

    # @param rows [Polars::DataFrame] of {#rows}
    # @param channel [String]
    # @return [Polars::DataFrame] `profile_id` and `address`, without spaces around it: the newest of each person that
    #   has the right form; of several since the same instant the first by its characters
    def newest_addresses(rows, channel)
      rows.filter(valid_addresses(channel)).with_columns([Polars.col("address").str.strip_chars])
          .sort(%w[profile_id occurred_at address], reverse: [false, false, true])
          .group_by("profile_id", maintain_order: true).agg([Polars.col("address").last])
    end

    # @param channel [String] of {CHANNELS}
    # @return [Polars::Expr] whether `address` has the form the channel needs
    def valid_addresses(channel)
      return Polars.col("address").is_not_null unless FORMS.key?(channel)

      Polars.col("address").str.strip_chars.str.contains(FORMS.fetch(channel)).fill_null(false)
    end

    # @param channel [String] of {CHANNELS}
    # @param address [String]
    # @return [Boolean] whether an address has the form the channel needs
    # linear: neither part of a form can take what stands between them
    def self.valid?(channel, address) = !FORMS.key?(channel) || Regexp.new(FORMS.fetch(channel)).match?(address.strip)

    private

    def addressed(channel)
      rows(channel).filter(valid_addresses(channel))
                   .select("profile_id").unique
    end

    def newest(channel)
      rows(channel).filter(Polars.col("given").is_not_null)
                   .group_by("profile_id", maintain_order: true).agg([Polars.col("given").last])
    end

    def refused(channel) = newest(channel).filter(Polars.col("given").is_not).select("profile_id")

    def agreed(channel) = newest(channel).filter(Polars.col("given")).select("profile_id")
  end
end
