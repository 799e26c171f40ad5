# frozen_string_literal: true

require "rack/attack"

module EstrelServer
  module Access
    # Holds whoever tries passwords to a few a minute, by address of the network and by e-mail address. The counts are
    # in files, so that all processes of the web server share them.
    module Attempts
      PLACES = %w[/api/session /api/session/link].freeze
      BY_ADDRESS = 20
      BY_EMAIL = 6
      MINUTE = 60
      REFUSAL = { type: "about:blank", title: "Too Many Requests", status: 429, errors: [],
                  detail: "too many attempts; try again in a minute" }.freeze

      module_function

      # @param settings [Settings]
      # @return [Class] the middleware
      def limited(settings)
        Rack::Attack.cache.store = ActiveSupport::Cache::FileStore.new(File.join(settings.var, "attempts"))
        Rack::Attack.throttle("by address", limit: BY_ADDRESS, period: MINUTE) do |request|
          request.ip if tried?(request)
        end
        Rack::Attack.throttle("by e-mail", limit: BY_EMAIL, period: MINUTE) do |request|
          email(request) if tried?(request)
        end
        Rack::Attack.throttled_responder = lambda do |_|
          [429, { "content-type" => "application/problem+json", "retry-after" => MINUTE.to_s },
           [JSON.generate(REFUSAL)]]
        end
        Rack::Attack
      end

      def tried?(request) = request.post? && PLACES.include?(request.path)
      private_class_method :tried?

      # Read before the application does.
      def email(request)
        text = request.body&.read(10_000)
        request.body&.rewind
        JSON.parse(text.to_s).then { |json| json.is_a?(Hash) ? json["email"].to_s.strip.downcase : nil }
      rescue JSON::ParserError
        nil
      end
      private_class_method :email
    end
  end
end
