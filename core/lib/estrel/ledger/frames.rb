# frozen_string_literal: true

module Estrel
  class Ledger
    # What lies in files of a ledger, or of a piece of one, each read under its name by `frame`.
    module Frames
      # @return [Polars::DataFrame] one row per profile, sorted by profile_id; see {Layout::PROFILE_COLUMNS}
      def profiles = frame("profiles")

      # @return [Polars::DataFrame] every value an attribute ever had; see {Layout::HISTORY_COLUMNS}
      def attribute_history = frame("attribute_history")

      # @return [Polars::DataFrame] addresses and consents; see {Layout::REACH_COLUMNS}
      def reach = frame("reach")

      # @return [Polars::DataFrame] whose events came from other profiles; see {Layout::ORIGIN_COLUMNS}
      def origins = frame("origins")

      # @param type [String] name of an event type in the catalogue
      # @return [Polars::DataFrame] its events, sorted by profile and time; see {Layout::EVENT_COLUMNS}
      def events(type) = frame("events/#{catalogue.event_types.fetch(type).id}")

      # @return [Polars::DataFrame] all events in order; see {Spine}
      def spine = frame("spine")

      # The attribute as it stands, where that is kept apart.
      #
      # @param name [String] of an attribute in the catalogue
      # @return [Polars::Series, nil] typed, one value per profile
      def current_attribute(name) = profiles[Layout.attribute(name)]
    end
  end
end
