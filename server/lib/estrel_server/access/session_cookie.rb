# frozen_string_literal: true

module EstrelServer
  module Access
    # The cookie that holds a session's key: for this site only, and no script sees it. Where Estrel is reached by https
    # its name has the prefix with which browsers take it from this host alone, by https alone (RFC 6265bis, 4.1.3.2).
    module SessionCookie
      NAME = "estrel_session"
      PREFIX = "__Host-"
      private_constant :PREFIX

      module_function

      # @return [String]
      def name = EstrelServer.settings.https? ? "#{PREFIX}#{NAME}" : NAME

      # @param request [Rack::Request]
      # @return [String, nil] the key of the session
      def read(request) = request.cookies[name]

      # @param response [Rack::Response]
      # @param key [String]
      # @return [void]
      def set(response, key)
        response.set_cookie(name, value: key, path: "/", httponly: true, same_site: :strict,
                                  secure: EstrelServer.settings.https?)
      end

      # @param response [Rack::Response]
      # @return [void]
      def delete(response) = response.delete_cookie(name, path: "/", secure: EstrelServer.settings.https?)
    end
  end
end
