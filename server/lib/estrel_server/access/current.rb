# frozen_string_literal: true

module EstrelServer
  module Access
    # Who makes the request that this thread answers; nobody in workers and on the command line.
    class Current < ActiveSupport::CurrentAttributes
      attribute :account
    end
  end
end
