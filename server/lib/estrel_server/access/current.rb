# frozen_string_literal: true

module EstrelServer
  module Access
    # Who makes the request that this thread answers; nobody in workers and on the command line.
    class Current < ActiveSupport::CurrentAttributes
      attribute :bearer

      # @return [Account, nil]
      def account = bearer&.account

      # Workers and the command line see everything.
      #
      # @return [Boolean]
      def sees_personal? = bearer.nil? || bearer.sees_personal?
    end
  end
end
