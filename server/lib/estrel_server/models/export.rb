# frozen_string_literal: true

module EstrelServer
  # The plan to hand an audience over: which columns, in which format.
  class Export < Record
    attribute :chosen_columns, :json
    belongs_to :audience
    has_many :runs, class_name: "EstrelServer::ExportRun", dependent: :restrict_with_exception
  end
end
