# frozen_string_literal: true

module EstrelServer
  # One execution of an export: definition, date and policy it used, and the file that came out.
  class ExportRun < Record
    attribute :policy, :json
    belongs_to :export
    belongs_to :audience_version
  end
end
