"""What tests and benches share. As in the application, the core is handed the networks."""

from bisectum.services.networks import hand_in_networks

hand_in_networks()
