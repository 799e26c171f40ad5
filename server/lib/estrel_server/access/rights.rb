# frozen_string_literal: true

module EstrelServer
  module Access
    # Which role a request takes. What is not named takes an analyst if it changes anything, and a viewer if not.
    module Rights
      OPEN = [%w[GET /session], %w[POST /session], %w[DELETE /session], %w[POST /session/demo],
              %w[POST /session/link], %w[GET /schemas/audience-definition.json]].freeze
      # Asked by POST since the question is long; nothing is changed.
      QUESTIONS = %r{\A/(audiences/(preview|sample|trend|movement|why)|studies/.+|policies/effect|notices/read)\z}
      # Everybody's own.
      OWN = %r{\A/account(/|\z)}
      ADMINISTRATORS = [
        [/POST|PUT|DELETE/, %r{\A/(sources|destinations)(/|\z)}], [/POST/, %r{\A/people/\d+/erase\z}],
        [/POST|PUT/, %r{\A/workspace(/|\z)}],
        [/PUT/, %r{\A/campaigns/messaging\z}], [/.+/, %r{\A/(accounts|log)(/|\z|\.)}]
      ].freeze
      # Raw data, in which identifiers and addresses could stand anywhere.
      NOT_FOR_VIEWERS = %r{
        \A/(arrivals(/live)?|imports/\d+/rejects\.csv|runs/\d+/file|people/\d+/everything\.json|catalogue/values|
        exports/try.*)\z
      }x

      module_function

      # @param method [String] of the request
      # @param path [String] under /api
      # @return [String, nil] role needed; nil where anybody may ask
      def needed(method, path)
        return if OPEN.include?([method, path])
        return "viewer" if OWN.match?(path)
        return "administrator" if ADMINISTRATORS.any? { |verb, place| verb.match?(method) && place.match?(path) }
        return "analyst" if NOT_FOR_VIEWERS.match?(path)

        method == "GET" || QUESTIONS.match?(path) ? "viewer" : "analyst"
      end
    end
  end
end
