# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Times inside properties and attributes, as microseconds.
    module Times
      module_function

      # @param text [Polars::Expr] RFC 3339 times
      # @return [Polars::Expr] Int64 microseconds; null where the text is no time
      def micros(text)
        text.str.strptime(Polars::Datetime.new("us"), "%+", strict: false).dt.replace_time_zone(nil).cast(Polars::Int64)
      end
    end
  end
end
