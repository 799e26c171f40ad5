# frozen_string_literal: true

module EstrelServer
  module Importing
    # One row of a file: its number (the header of a CSV file is row 1), the row as it was, and either its values or
    # the fault that makes it unusable.
    Row = Struct.new(:number, :original, :fields, :fault) do
      alias_method :values, :fields
    end
  end
end
