# frozen_string_literal: true

module EstrelServer
  module Access
    # Which requests go into the log once they have succeeded: exports, erasures, and changes of rights.
    module Log
      ACTIONS = [
        [/POST/, %r{\A/exports/\d+/runs\z}, "export started"], [/POST/, %r{\A/runs/\d+/approve\z}, "export approved"],
        [/POST/, %r{\A/runs/\d+/(resume|retry-refused)\z}, "export gone on with"],
        [/GET/, %r{\A/runs/\d+/file\z}, "export downloaded"], [/POST/, %r{\A/people/\d+/erase\z}, "person erased"],
        [/GET/, %r{\A/people/\d+/everything\.json\z}, "person's data downloaded"],
        [/POST/, %r{\A/accounts\z}, "account made"], [/PUT/, %r{\A/accounts/\d+\z}, "rights changed"],
        [/POST/, %r{\A/accounts/\d+/link\z}, "password link made"],
        [/PUT/, %r{\A/account/password\z}, "password changed"],
        [/POST/, %r{\A/account/tokens\z}, "token issued"], [/DELETE/, %r{\A/account/tokens/\d+\z}, "token revoked"],
        [/POST|PUT|DELETE/, %r{\A/sources(/|\z)}, "source or key changed"],
        [/POST|PUT|DELETE/, %r{\A/destinations(/\d+)?\z}, "destination changed"],
        [/PUT/, %r{\A/(audiences|policies|exports)/\d+/sharing\z}, "sharing changed"],
        [/POST/, %r{\A/workspace/clear\z}, "all data removed"], [/PUT/, %r{\A/workspace\z}, "settings changed"]
      ].freeze

      module_function

      # @param request [Rack::Request] answered with success
      # @param path [String] under /api
      # @param account [Account]
      # @return [void]
      def note(request, path, account)
        found = ACTIONS.find { |verb, place, _| verb.match?(request.request_method) && place.match?(path) } or return
        AuditEntry.add(found.last, who: account.email, about: "#{request.request_method} #{path}",
                                   from_address: request.ip.to_s)
      end
    end
  end
end
