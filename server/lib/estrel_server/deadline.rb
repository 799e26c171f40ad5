# frozen_string_literal: true

require "fiddle"

module EstrelServer
  # Kills this process after a time, whatever it computes: Polars holds Ruby's lock meanwhile, so neither a thread nor a
  # signal handler of Ruby's would run. The kernel's alarm, left to its default action, needs neither.
  module Deadline
    ALARM = Fiddle::Function.new(Fiddle::Handle::DEFAULT["alarm"], [Fiddle::TYPE_INT], Fiddle::TYPE_INT)
    private_constant :ALARM

    module_function

    # @param seconds [Integer] from now
    # @return [void]
    def set(seconds)
      trap("ALRM", "SYSTEM_DEFAULT")
      ALARM.call(seconds)
    end

    # @return [void]
    def clear = ALARM.call(0)

    # @param seconds [Numeric] that the block may take; infinite for as long as it takes
    # @yieldreturn [Object]
    # @return [Object] the block's result
    def within(seconds)
      return yield if seconds == Float::INFINITY

      set(seconds.ceil)
      yield
    ensure
      clear
    end
  end
end
