"""What people read off instruments and type in: records, and the lines they are typed as."""
