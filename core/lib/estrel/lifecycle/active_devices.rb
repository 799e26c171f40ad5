# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many devices, instead of people, activity came from: one person may use several, and several people one.
    # Activity that came from no device is not counted.
    class ActiveDevices < ActivePeople
      private

      def activity = @lifecycle.device_activity

      def gaps(grouping) = @lifecycle.device_gaps(grouping)
    end
  end
end
