# frozen_string_literal: true

module EstrelServer
  # What all models share.
  class Record < ActiveRecord::Base
    self.abstract_class = true

    # @return [String] "audiences" rather than "estrel_server_audiences"
    def self.compute_table_name = name.demodulize.tableize
  end
end
