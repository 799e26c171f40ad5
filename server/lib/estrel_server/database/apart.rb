# frozen_string_literal: true

module EstrelServer
  class Database
    # Prepended to Active Record's adapter: a database server that has lost the others says that it is not prepared.
    # That is treated like a connection that has failed, since the next one may reach a server that has not.
    module Apart
      NOT_PREPARED = 1047

      private

      def translate_exception(exception, message:, sql:, binds:)
        return super unless exception.is_a?(Trilogy::Error) && exception.error_code == NOT_PREPARED

        ActiveRecord::ConnectionFailed.new(message, sql: sql, binds: binds, connection_pool: @pool)
      end
    end
  end
end
